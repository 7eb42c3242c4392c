import type { Cap, Row } from '$lib/keys/caps';
import type { PlaneCaps } from '$lib/plane/caps';
import {
  ArrowRightToLine,
  ChevronsRight,
  Copy,
  Crosshair,
  EyeOff,
  FastForward,
  GitCompare,
  Hash,
  KeyRound,
  LocateFixed,
  Maximize,
  Pause,
  Play,
  Repeat,
  Rewind,
  Scan,
  ScissorsLineDashed,
  SearchX,
  SkipBack,
  SkipForward,
  StepBack,
  StepForward,
  Timer,
  Volume2,
  VolumeX
} from '@lucide/svelte';
import { nextCap, sayingRows, trackCaps } from '../along';
import type { BenchPorts, Caps } from '../kind';
import type { ClipSurface } from './surface.svelte';

const LOOK = 'this item is only looked at';

/** What the deck does for a clip, over what it does for any plane. */
export class ClipCaps {
  constructor(
    private readonly surface: ClipSurface,
    private readonly plane: PlaneCaps,
    private readonly ports: BenchPorts
  ) {}

  get #look(): string | undefined {
    return this.surface.plane.editable ? undefined : LOOK;
  }
  #done(act: () => unknown): () => void {
    return () => {
      act();
      this.ports.page(null);
    };
  }

  caps(): Caps {
    const { surface, plane } = this;
    const { clock } = surface;
    const drawn = surface.plane.isDrawing;
    const verbs = plane.verbs();
    const view = plane.view();
    const tools = plane.tools().filter((c) => c.code === 'KeyQ' || c.code === 'KeyE');
    return {
      tools: [
        ...tools,
        {
          code: 'KeyW',
          word: clock.playing ? 'stop' : 'play',
          icon: clock.playing ? Pause : Play,
          lit: clock.playing,
          hint: clock.speed === 1 ? undefined : `at ${clock.speed}×`,
          press: () => clock.toggle()
        },
        { code: 'KeyT', word: 'time…', icon: Timer, press: () => this.ports.page('time') }
      ],
      verbs: verbs.name === 'verbs' ? { name: 'verbs', caps: this.#verbs(verbs.caps) } : verbs,
      view: view.name !== 'view' || drawn ? view : { name: 'frames', caps: this.#steps() }
    };
  }
  #verbs(own: Cap[]): Cap[] {
    const { surface } = this;
    const { hand } = this.ports;
    const one = hand.one;
    const none = this.#look ?? (hand.size > 0 ? undefined : 'pick a mark first');
    const key = one?.stretches ? this.ports.editor.keys.at(one.id, surface.clock.frame) : undefined;
    return [
      // a node of a skeleton in hand has its own verbs
      ...own.filter((c) => c.word !== 'double' && (hand.point !== null || c.code !== 'KeyA')),
      ...(hand.size === 0 && surface.overlays.length > 0
        ? surface.overlays.some((o) => o.name === 'suggestions') && this.ports.mode === 'label'
          ? []
          : [this.#beside()]
        : hand.point !== null && one?.kind === 'skeleton'
          ? []
          : [
              {
                code: 'KeyA',
                word: key?.geometry ? 'no key' : 'key',
                icon: KeyRound,
                off: none ?? (one === null ? 'of one mark' : one.away ? 'it is not there at this frame' : undefined),
                press: () => one && surface.acts.toggleKey(one)
              } satisfies Cap
            ]),
      ...(hand.size > 0 && surface.plane.editable
        ? [{ code: 'KeyG', word: 'carry…', icon: ChevronsRight, press: () => this.ports.page('carry') }]
        : [])
    ];
  }
  /** What lies over the marks to be looked at: as they were before, what a model proposes. */
  #beside(): Cap {
    const { overlays, plane } = this.surface;
    const word = overlays.map((o) => o.name).join(', ');
    return { code: 'KeyA', word, icon: GitCompare, lit: plane.show.over, press: () => (plane.show.over = !plane.show.over) };
  }
  #steps(): Cap[] {
    const { clock } = this.surface;
    return [
      { code: 'KeyZ', word: 'frame back', icon: StepBack, again: true, press: () => void clock.by(-1) },
      { code: 'KeyX', word: 'frame on', icon: StepForward, again: true, press: () => void clock.by(1) },
      nextCap(this.surface, this.ports)
    ];
  }
  /** What is done with the track in hand, beside what is done with any mark. */
  ofMark(): Cap[] {
    const { acts } = this.surface;
    const { hand } = this.ports;
    const caps = trackCaps(this.surface, this.ports, 'frame', this.#look);
    const one = hand.one;
    const only = this.#look ?? (one ? undefined : 'of one mark');
    const absent = one !== null && this.ports.words.isAbsentUnseen(one.class);
    return [
      caps.exchange,
      caps.begins,
      caps.ends,
      {
        code: 'KeyF',
        word: one?.veiled || (absent && one?.away) ? 'seen again' : absent ? 'absent now' : 'hidden now',
        icon: EyeOff,
        off: only ?? (one?.away && !absent ? 'it is not there at this frame' : undefined),
        hint: 'from this frame on',
        press: this.#done(() => one && acts.veil(one))
      },
      caps.split,
      caps.join
    ];
  }

  readonly pages: Record<string, () => Row[]> = {
    item: () =>
      sayingRows(this.surface, this.ports, { places: 'frames', icon: Timer, hint: 'from this frame on', whole: 'of the whole clip' }),
    time: () => {
      const { surface } = this;
      const { clock, timeline } = surface;
      const { hand } = this.ports;
      const mine = hand.one?.stretches?.[0] ? ([hand.one.stretches[0][0], hand.one.stretches.at(-1)![1]] as [number, number]) : null;
      const hasSound = surface.item.clip!.sound;
      return [
        {
          name: 'time',
          caps: [
            { code: 'KeyQ', word: 'first frame', icon: SkipBack, press: () => void clock.go(0) },
            { code: 'KeyW', word: 'last frame', icon: SkipForward, press: () => void clock.go(clock.last) },
            { code: 'KeyE', word: 'to frame…', icon: Hash, press: this.#done(() => (surface.asking = true)) },
            { code: 'KeyR', word: `slower`, icon: Rewind, hint: `now ${clock.speed}×`, again: true, press: () => clock.faster(-1) },
            { code: 'KeyT', word: 'faster', icon: FastForward, hint: `now ${clock.speed}×`, again: true, press: () => clock.faster(1) }
          ]
        },
        {
          name: `${clock.speed}×`,
          caps: [
            {
              code: 'KeyA',
              word: clock.loop ? 'no round' : 'round',
              icon: Repeat,
              lit: clock.loop !== null,
              hint: 'plays what is in hand, or what is in sight below, round and round',
              press: () => {
                const { from, span } = timeline.view;
                clock.loop = clock.loop ? null : (mine ?? [Math.ceil(from), Math.min(clock.last, Math.floor(from + span) - 1)]);
                if (clock.loop) void clock.play();
              }
            },
            {
              code: 'KeyD',
              word: surface.muted ? 'sound on' : 'mute',
              icon: surface.muted ? VolumeX : Volume2,
              off: hasSound ? undefined : 'this clip has no sound',
              press: () => surface.mute()
            },
            { code: 'KeyF', word: 'whole time', icon: Maximize, press: () => timeline.fit() },
            {
              code: 'KeyG',
              word: 'its time',
              icon: Scan,
              off: mine ? undefined : 'pick a mark first',
              press: () => mine && timeline.fit(mine)
            }
          ]
        },
        {
          name: `steps of ${clock.step}`,
          caps: [
            { code: 'KeyZ', word: `${clock.step} back`, icon: Rewind, again: true, press: () => void clock.by(-clock.step) },
            { code: 'KeyX', word: `${clock.step} on`, icon: FastForward, again: true, press: () => void clock.by(clock.step) },
            {
              code: 'KeyB',
              word: 'whole picture',
              icon: Maximize,
              press: () => surface.plane.sight.toggle()
            }
          ]
        }
      ];
    },
    carry: () => {
      const { acts, clock } = this.surface;
      const { hand } = this.ports;
      const one = hand.one ? undefined : 'of one mark';
      const area = one ?? (hand.one?.kind === 'polygon' || hand.one?.kind === 'mask' ? undefined : 'only outlines and masks');
      const follow = (frames: number | null) => hand.one && this.surface.following.start(hand.one, frames);
      const each = (frames: number | null) =>
        this.#done(() => {
          for (const m of hand.free) acts.carry(m, frames);
          if (frames !== null) void clock.by(frames);
        });
      return [
        {
          name: 'carry as it is',
          caps: [
            { code: 'KeyQ', word: 'a frame', icon: Copy, hint: 'as it is here, and on to that frame', press: each(1) },
            { code: 'KeyW', word: `${clock.step} frames`, icon: Copy, press: each(clock.step) },
            { code: 'KeyE', word: 'to its end', icon: ArrowRightToLine, hint: 'stands still from here on', press: each(null) },
            {
              code: 'KeyR',
              word: 'to the last',
              icon: SkipForward,
              hint: 'there to the end of the clip',
              press: this.#done(() => hand.free.forEach((m) => acts.toTheEnd(m)))
            }
          ]
        },
        {
          name: 'by its looks',
          caps: [
            {
              code: 'KeyA',
              word: `follow ${clock.step}`,
              icon: Crosshair,
              off: one,
              hint: 'so many frames',
              press: this.#done(() => void follow(clock.step))
            },
            {
              code: 'KeyD',
              word: 'follow on',
              icon: Crosshair,
              off: one,
              hint: 'to its end, to the next key, or until it is not sure',
              press: this.#done(() => void follow(null))
            },
            {
              code: 'KeyF',
              word: 'worst fit',
              icon: SearchX,
              off: one,
              hint: 'the frame at which what lies between its keys fits the picture worst',
              press: () => hand.one && void this.surface.fitting.worst(hand.one)
            }
          ]
        },
        {
          name: 'by its outline',
          caps: [
            {
              code: 'KeyZ',
              word: 'cut here',
              icon: ScissorsLineDashed,
              off: area,
              hint: 'its outline anew at this frame, from its last key on',
              press: this.#done(() => hand.one && void this.surface.recutting.start(hand.one, null))
            },
            {
              code: 'KeyX',
              word: `cut each ${clock.step}`,
              icon: ScissorsLineDashed,
              off: area,
              hint: 'its outline anew every so many frames, from its last key to this frame',
              press: this.#done(() => hand.one && void this.surface.recutting.start(hand.one, clock.step))
            },
            {
              code: 'KeyB',
              word: 'fit here',
              icon: LocateFixed,
              off: one ?? (hand.one?.away ? 'it is not there at this frame' : undefined),
              hint: 'a key at this frame, where it is by its looks',
              press: () => hand.one && void this.surface.fitting.here(hand.one)
            }
          ]
        }
      ];
    }
  };
}
