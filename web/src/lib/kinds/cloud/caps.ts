import type { Cap, Row } from '$lib/keys/caps';
import {
  ArrowLeftRight,
  ArrowRightToLine,
  BoxSelect,
  Camera,
  ChevronsRight,
  Crosshair,
  Cuboid as CuboidIcon,
  Eye,
  EyeOff,
  FoldVertical,
  GitCompare,
  Hash,
  KeyRound,
  Layers,
  Maximize,
  Minus,
  MousePointer2,
  Mountain,
  Palette,
  Pause,
  Play,
  Plus,
  Rotate3d,
  RotateCcw,
  RotateCw,
  Scaling,
  Shrink,
  SkipBack,
  SkipForward,
  StepBack,
  StepForward,
  Timer,
  UnfoldVertical
} from '@lucide/svelte';
import { nextCap, sayingRows, trackCaps } from '../along';
import type { BenchPorts, Caps } from '../kind';
import { quarter, sized, turned } from './cuboid';
import { isCuboid, type CloudSurface } from './surface.svelte';

/** The ways to look at the large view. */
const WAYS = {
  space: { word: 'in space', icon: Rotate3d },
  above: { word: 'from above', icon: Layers },
  picture: { word: 'picture', icon: Camera }
};
const LOOK = 'this item is only looked at';

/** What the deck does for a cloud. */
export class CloudCaps {
  constructor(
    private readonly surface: CloudSurface,
    private readonly ports: BenchPorts
  ) {}
  get #look(): string | undefined {
    return this.surface.editable ? undefined : LOOK;
  }
  #done(act: () => unknown): () => void {
    return () => {
      act();
      this.ports.page(null);
    };
  }
  /** Why nothing can be done to the cuboid in hand; undefined: it can. */
  get #one(): string | undefined {
    const { one } = this.ports.hand;
    return this.#look ?? (isCuboid(one) ? (one.away ? 'it is not there at this frame' : undefined) : 'take a cuboid into hand');
  }

  caps(): Caps {
    const { surface } = this;
    const drawable = this.ports.words.kindsOf(this.ports.chosen.active).includes('cuboid');
    return {
      tools: [
        { code: 'KeyQ', word: 'pick', icon: MousePointer2, lit: surface.mode === 'pick', press: () => (surface.mode = 'pick') },
        {
          code: 'KeyW',
          ...WAYS[surface.next],
          hint: 'how the large view is looked at',
          press: () => surface.turnTo(surface.next)
        },
        {
          code: 'KeyE',
          word: 'cuboid',
          icon: CuboidIcon,
          lit: surface.mode === 'draw',
          off: this.#look ?? (drawable ? undefined : 'the class in hand is not drawn as a cuboid'),
          hint: 'a drag on the ground, from its back to its front',
          press: () => surface.drawing()
        },
        { code: 'KeyT', word: 'points…', icon: Palette, hint: 'how the points are shown', press: () => this.ports.page('points') }
      ],
      verbs: { name: 'verbs', caps: this.#verbs() },
      view: { name: 'frames', caps: this.#steps() }
    };
  }
  #verbs(): Cap[] {
    const { surface } = this;
    const { hand } = this.ports;
    const one = this.#one;
    if (hand.size === 0 && this.ports.overlays().length > 0) {
      const word = this.ports
        .overlays()
        .map((o) => o.name)
        .join(', ');
      return [{ code: 'KeyA', word, icon: GitCompare, lit: surface.over, press: () => (surface.over = !surface.over) }];
    }
    return [
      {
        code: 'KeyA',
        word: surface.fitting ? 'fitting' : 'tighter',
        icon: Shrink,
        off: one ?? (surface.fitting ? 'it is being fitted' : undefined),
        hint: 'as close round its points as they lie',
        press: () => void surface.tighten()
      },
      {
        code: 'KeyD',
        word: 'front left',
        icon: RotateCcw,
        off: one,
        hint: 'the side to the left is its front now; where it lies it stays',
        press: () => surface.change(quarter)
      },
      {
        code: 'KeyF',
        word: this.#key() ? 'no key' : 'key',
        icon: KeyRound,
        off: one,
        hint: 'at this frame it is where it is now',
        press: () => {
          surface.commit();
          if (hand.one) surface.axis.acts.toggleKey(hand.one);
        }
      },
      { code: 'KeyG', word: 'cuboid…', icon: BoxSelect, off: one, press: () => this.ports.page('cuboid') }
    ];
  }
  #key(): boolean {
    const { one } = this.ports.hand;
    return one !== null && this.ports.editor.keys.at(one.id, this.surface.place)?.geometry !== undefined;
  }
  #steps(): Cap[] {
    const { surface } = this;
    const { clock } = surface.axis;
    const single = clock.last === 0 ? 'it is one frame' : undefined;
    return [
      { code: 'KeyZ', word: 'frame back', icon: StepBack, again: true, off: single, press: () => void surface.go(clock.heading - 1) },
      { code: 'KeyX', word: 'frame on', icon: StepForward, again: true, off: single, press: () => void surface.go(clock.heading + 1) },
      nextCap(surface.axis, this.ports, single)
    ];
  }
  /** What is done with the track in hand, beside what is done with any mark. */
  ofMark(): Cap[] {
    const { acts } = this.surface.axis;
    const { hand } = this.ports;
    const caps = trackCaps(this.surface.axis, this.ports, 'frame', this.#look);
    const one = hand.one;
    const only = this.#look ?? (one ? undefined : 'of one mark');
    return [
      caps.exchange,
      caps.begins,
      caps.ends,
      {
        code: 'KeyF',
        word: one?.veiled ? 'seen again' : 'hidden now',
        icon: EyeOff,
        off: only,
        hint: 'from this frame on',
        press: this.#done(() => one && acts.veil(one))
      },
      caps.split,
      caps.join
    ];
  }

  readonly pages: Record<string, () => Row[]> = {
    item: () =>
      sayingRows(this.surface.axis, this.ports, { places: 'frames', icon: Timer, hint: 'from this frame on', whole: 'of the whole cloud' }),
    points: () => {
      const { surface } = this;
      const { looks, cloud } = surface;
      const { clock } = surface.axis;
      const metres = (m: number | null) => (m === null ? '' : ` ${m} m`);
      return [
        {
          name: `by ${looks.by}`,
          caps: [
            {
              code: 'KeyQ',
              word: `by ${looks.by}`,
              icon: Palette,
              hint: 'what points are coloured by: the next',
              press: () => looks.next(cloud.index)
            },
            { code: 'KeyW', word: 'smaller', icon: Minus, again: true, press: () => looks.larger(-1) },
            { code: 'KeyE', word: 'larger', icon: Plus, again: true, hint: `${looks.size} px`, press: () => looks.larger(1) },
            {
              code: 'KeyR',
              word: looks.ground ? 'no ground' : 'ground',
              icon: looks.ground ? Mountain : Eye,
              lit: !looks.ground,
              hint: 'what was found to be ground',
              press: () => looks.toggleGround()
            },
            { code: 'KeyT', word: 'whole', icon: Maximize, press: this.#done(() => surface.show(null)) }
          ]
        },
        {
          name: `shown from${metres(looks.low) || ' below'} to${metres(looks.high) || ' above'}`,
          caps: [
            { code: 'KeyA', word: 'top lower', icon: FoldVertical, again: true, press: () => looks.crop('high', -0.25) },
            { code: 'KeyD', word: 'top higher', icon: UnfoldVertical, again: true, press: () => looks.crop('high', 0.25) },
            { code: 'KeyF', word: 'from higher', icon: FoldVertical, again: true, press: () => looks.crop('low', 0.25) },
            {
              code: 'KeyG',
              word: 'all heights',
              icon: Maximize,
              off: looks.low === null && looks.high === null ? 'all are shown' : undefined,
              press: () => looks.uncrop()
            }
          ]
        },
        {
          name: 'frames',
          caps: [
            { code: 'KeyZ', word: 'first', icon: SkipBack, press: () => void surface.go(0) },
            { code: 'KeyX', word: 'last', icon: SkipForward, press: () => void surface.go(clock.last) },
            {
              code: 'KeyB',
              word: clock.playing ? 'stop' : 'run',
              icon: clock.playing ? Pause : Play,
              off: clock.last === 0 ? 'it is one frame' : undefined,
              press: this.#done(() => {
                surface.commit();
                clock.toggle();
              })
            }
          ]
        }
      ];
    },
    cuboid: () => {
      const { surface } = this;
      const { acts, clock } = surface.axis;
      const { hand } = this.ports;
      const one = this.#one;
      const usual = hand.one ? surface.usual(hand.one.class) : null;
      return [
        {
          name: 'cuboid',
          caps: [
            {
              code: 'KeyQ',
              word: 'turn left',
              icon: RotateCcw,
              again: true,
              off: one,
              hint: 'by 1°; also ,',
              press: () => surface.change((c) => turned(c, 1))
            },
            {
              code: 'KeyW',
              word: 'turn right',
              icon: RotateCw,
              again: true,
              off: one,
              hint: 'by 1°; also .',
              press: () => surface.change((c) => turned(c, -1))
            },
            {
              code: 'KeyE',
              word: 'by numbers',
              icon: Hash,
              off: one,
              hint: 'heading and size are typed',
              press: this.#done(() => (surface.typing = true))
            },
            {
              code: 'KeyR',
              word: 'usual size',
              icon: Scaling,
              off: one ?? (usual ? undefined : 'nothing of its class has been drawn yet'),
              hint: usual ? usual.map((m) => m.toFixed(2)).join(' × ') : undefined,
              press: this.#done(() => usual && surface.change((c) => sized(c, usual)))
            },
            {
              code: 'KeyT',
              word: 'front behind',
              icon: ArrowLeftRight,
              off: one,
              hint: 'its front is where its back was',
              press: this.#done(() => surface.change((c) => turned(c, 180)))
            }
          ]
        },
        {
          name: 'over its frames',
          caps: [
            {
              code: 'KeyA',
              word: 'as it is',
              icon: ChevronsRight,
              off: one ?? (clock.last === 0 ? 'it is one frame' : undefined),
              hint: 'carried a frame on as it is here',
              press: this.#done(() => {
                surface.commit();
                for (const m of hand.free) acts.carry(m, 1);
                void surface.go(clock.heading + 1);
              })
            },
            {
              code: 'KeyD',
              word: 'as it is on',
              icon: ArrowRightToLine,
              off: one ?? (clock.last === 0 ? 'it is one frame' : undefined),
              hint: 'stands still from here on',
              press: this.#done(() => {
                surface.commit();
                for (const m of hand.free) acts.carry(m, null);
              })
            },
            {
              code: 'KeyF',
              word: 'follow on',
              icon: Crosshair,
              off: one ?? (clock.last === 0 ? 'it is one frame' : undefined),
              hint: 'by its points: to its end, to the next key, or until it is not sure',
              press: this.#done(() => {
                surface.commit();
                if (hand.one) void surface.following.start(hand.one, null);
              })
            },
            {
              code: 'KeyG',
              word: 'follow a frame',
              icon: Crosshair,
              off: one ?? (clock.last === 0 ? 'it is one frame' : undefined),
              hint: 'by its points',
              press: this.#done(() => {
                surface.commit();
                if (hand.one) void surface.following.start(hand.one, 1);
              })
            }
          ]
        },
        { name: '', caps: [] }
      ];
    }
  };
}
