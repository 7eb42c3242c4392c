import type { Cap, Row } from '$lib/keys/caps';
import type { PlaneCaps } from '$lib/plane/caps';
import {
  Check,
  ChevronsRight,
  Contrast,
  Copy,
  Eraser,
  GitCompare,
  Group,
  Hash,
  KeyRound,
  Layers,
  Maximize,
  Minus,
  PaintBucket,
  Pause,
  Play,
  Plus,
  Rotate3d,
  Ruler,
  SkipBack,
  SkipForward,
  Sprout,
  SquaresSubtract,
  StepBack,
  StepForward,
  SunMoon,
  Waves
} from '@lucide/svelte';
import { nextCap, sayingRows, trackCaps } from '../along';
import type { BenchPorts, Caps } from '../kind';
import type { Direction } from './planes';
import type { VolumeSurface } from './surface.svelte';

const LOOK = 'this item is only looked at';
const DIRECTIONS: Direction[] = ['xy', 'xz', 'yz'];
const WORDS: Record<Direction, string> = { xy: 'slices', xz: 'from the front', yz: 'from the side' };

/** What the deck does for a volume, over what it does for any plane. */
export class VolumeCaps {
  constructor(
    private readonly surface: VolumeSurface,
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
  #next(): Direction {
    return DIRECTIONS[(DIRECTIONS.indexOf(this.surface.volume.direction) + 1) % 3]!;
  }
  /** Why marks can't be drawn or keyed on the large plane: they are on slices. */
  get #slices(): string | undefined {
    return this.surface.volume.direction === 'xy' ? undefined : 'on slices: make their plane the large one';
  }

  caps(): Caps {
    const { surface, plane } = this;
    if (surface.growing.active) return this.#growing();
    const verbs = plane.verbs();
    const view = plane.view();
    const { drawing } = surface.plane;
    const masked = drawing.mode === 'draw' && drawing.shape === 'mask' && !drawing.cutting;
    const tools = plane
      .tools()
      .filter((c) => c.code === 'KeyQ' || c.code === 'KeyE')
      .map((c) =>
        c.code === 'KeyE' && drawing.shape !== 'mask' && this.#slices ? { ...c, off: c.off ?? 'only masks are drawn here' } : c
      );
    return {
      tools: [
        ...tools,
        {
          code: 'KeyW',
          word: WORDS[this.#next()],
          icon: Rotate3d,
          hint: 'the next of the three planes becomes the large one',
          press: () => surface.turn(this.#next())
        },
        { code: 'KeyT', word: 'scan…', icon: Layers, hint: 'window, measuring, getting about', press: () => this.ports.page('scan') }
      ],
      verbs: verbs.name === 'verbs' ? { name: 'verbs', caps: this.#verbs(verbs.caps) } : verbs,
      view:
        view.name === 'view' || masked ? { name: surface.volume.direction === 'xy' ? 'slices' : 'planes', caps: this.#steps(masked) } : view
    };
  }
  /** A region is grown: how far, and taken or not. */
  #growing(): Caps {
    const { growing } = this.surface;
    const seeded = growing.seed ? undefined : 'press inside of what is meant';
    const { found } = growing;
    return {
      tools: [
        {
          code: 'KeyQ',
          word: 'leave it',
          icon: Eraser,
          press: () => void growing.leave()
        },
        {
          code: 'KeyE',
          word: 'take it',
          icon: Check,
          lit: found !== null,
          off: this.#look ?? (found && found.slices.size > 0 ? undefined : growing.waiting ? 'it is being grown' : 'nothing is grown yet'),
          hint: 'or Enter',
          press: () => void growing.take()
        }
      ],
      verbs: {
        name: 'range of what is measured',
        caps: [
          { code: 'KeyA', word: 'narrower', icon: Minus, again: true, off: seeded, hint: 'or −', press: () => growing.wider(-1) },
          {
            code: 'KeyD',
            word: `wider: ±${Math.round(growing.spread)}`,
            icon: Plus,
            again: true,
            off: seeded,
            hint: 'or +',
            press: () => growing.wider(1)
          },
          { code: 'KeyF', word: 'nearer', icon: Minus, again: true, press: () => growing.farther(-1) },
          { code: 'KeyG', word: `to ${growing.distance} mm`, icon: Plus, again: true, press: () => growing.farther(1) }
        ]
      },
      view: { name: 'slices', caps: this.#steps(false).slice(0, 2) }
    };
  }
  #verbs(own: Cap[]): Cap[] {
    const { surface } = this;
    const { hand } = this.ports;
    const one = hand.one;
    const none = this.#look ?? (hand.size > 0 ? undefined : 'pick a mark first');
    const key = one?.stretches ? this.ports.editor.keys.at(one.id, surface.clock.frame) : undefined;
    const away = one !== null && surface.tracks.of(one.id)?.at(surface.clock.frame) === null;
    return [
      ...own.filter((c) => c.word !== 'double' && (hand.point !== null || c.code !== 'KeyA')),
      ...(hand.size === 0 && surface.overlays.length > 0
        ? surface.overlays.some((o) => o.name === 'suggestions') && this.ports.mode === 'label'
          ? []
          : [this.#beside()]
        : [
            {
              code: 'KeyA',
              word: away ? 'here too' : key?.geometry ? 'no key' : 'key',
              icon: away ? Copy : KeyRound,
              off: none ?? (one === null ? 'of one mark' : this.#slices),
              hint: away ? 'as it is on its nearest slice' : undefined,
              press: () => one && (away ? surface.hereToo(one) : surface.acts.toggleKey(one))
            } satisfies Cap
          ]),
      ...(surface.plane.editable
        ? [{ code: 'KeyG', word: 'in space…', icon: Sprout, press: () => this.ports.page('space') } satisfies Cap]
        : [])
    ];
  }
  #beside(): Cap {
    const { overlays, plane } = this.surface;
    const word = overlays.map((o) => o.name).join(', ');
    return { code: 'KeyA', word, icon: GitCompare, lit: plane.show.over, press: () => (plane.show.over = !plane.show.over) };
  }
  #steps(masked: boolean): Cap[] {
    const { surface } = this;
    const word = surface.volume.direction === 'xy' ? 'slice' : 'plane';
    return [
      { code: 'KeyZ', word: `${word} back`, icon: StepBack, again: true, press: () => surface.step(-1) },
      { code: 'KeyX', word: `${word} on`, icon: StepForward, again: true, press: () => surface.step(1) },
      masked ? { code: 'KeyB', word: 'mask…', icon: Sprout, press: () => this.ports.page('space') } : nextCap(surface, this.ports)
    ];
  }
  /** What is done with the object in hand, beside what is done with any mark. */
  ofMark(): Cap[] {
    const { surface } = this;
    const { acts, clock } = surface;
    const one = this.ports.hand.one;
    const caps = trackCaps(surface, this.ports, 'slice', this.#look);
    const only = this.#look ?? (one ? undefined : 'of one mark');
    return [
      {
        code: 'KeyT',
        word: 'not here',
        icon: Eraser,
        off: only ?? (one && surface.tracks.of(one.id)?.at(clock.frame) === null ? 'it is not on this slice' : undefined),
        hint: 'not on this slice',
        press: this.#done(() => one && surface.notHere(one))
      },
      caps.begins,
      caps.ends,
      {
        code: 'KeyF',
        word: `on for ${clock.step}`,
        icon: ChevronsRight,
        off: only,
        hint: 'as it is here, on the slices that follow',
        press: this.#done(() => one && acts.carry(one, clock.step))
      },
      caps.split,
      caps.join
    ];
  }

  readonly pages: Record<string, () => Row[]> = {
    item: () =>
      sayingRows(this.surface, this.ports, { places: 'slices', icon: Layers, hint: 'from this slice on', whole: 'of the whole volume' }),
    scan: () => {
      const { surface } = this;
      const { clock, volume } = surface;
      const { window } = volume;
      const presets = window.presets.slice(0, 3);
      const hold = (what: typeof surface.hold) => this.#done(() => (surface.hold = surface.hold === what ? null : what));
      return [
        {
          name: 'slices',
          caps: [
            { code: 'KeyQ', word: 'first', icon: SkipBack, press: () => void clock.go(0) },
            { code: 'KeyW', word: 'last', icon: SkipForward, press: () => void clock.go(clock.last) },
            { code: 'KeyE', word: 'to slice…', icon: Hash, press: this.#done(() => (surface.asking = true)) },
            {
              code: 'KeyR',
              word: 'measure',
              icon: Ruler,
              lit: surface.hold === 'measure',
              hint: 'a drag on the plane, in mm',
              press: hold('measure')
            },
            {
              code: 'KeyT',
              word: clock.playing ? 'stop' : 'run',
              icon: clock.playing ? Pause : Play,
              press: this.#done(() => clock.toggle())
            }
          ]
        },
        {
          name: 'window',
          caps: [
            {
              code: 'KeyA',
              word: 'by hand',
              icon: Contrast,
              lit: surface.hold === 'window',
              hint: 'a drag: down and up the level, across the width',
              press: hold('window')
            },
            ...presets.map((p, i): Cap => ({
              code: ['KeyD', 'KeyF', 'KeyG'][i]!,
              word: p.name,
              icon: SunMoon,
              lit: p.level === window.level && p.width === window.width,
              press: () => window.take(p)
            }))
          ]
        },
        {
          name: '',
          caps: [
            {
              code: 'KeyZ',
              word: 'next',
              icon: SunMoon,
              again: true,
              press: () => {
                const next = window.next();
                if (next) this.ports.say(`window: ${next.name}`);
              }
            },
            { code: 'KeyX', word: window.inverted ? 'as it was' : 'inverted', icon: Contrast, press: () => window.invert() },
            { code: 'KeyB', word: 'whole', icon: Maximize, press: () => surface.plane.sight.toggle() }
          ]
        }
      ];
    },
    space: () => {
      const { surface } = this;
      const { growing, volume } = surface;
      const { hand } = this.ports;
      const masks = this.ports.words.kindsOf(this.ports.chosen.active).includes('mask');
      const mask = this.#look ?? (hand.one?.kind === 'mask' ? undefined : 'take a mask into hand');
      const [first] = this.plane.maskPage();
      return [
        { name: first!.name, caps: first!.caps },
        {
          name: 'in space',
          caps: [
            {
              code: 'KeyA',
              word: 'grow',
              icon: Sprout,
              off: this.#look ?? (masks ? undefined : 'the class in hand has no masks'),
              hint: 'from a press inside of what is meant',
              press: this.#done(() => {
                const { spacing, sizes } = volume.index ?? { spacing: [1, 1, 1], sizes: [1, 1, 1] };
                growing.begin(volume.window.width, Math.max(...spacing.map((s, i) => s * sizes[i]!)));
              })
            },
            ...(
              [
                ['KeyD', 'smooth', 'smooth', Waves, 'each voxel as most round it are'],
                ['KeyF', 'largest', 'largest part', Group, 'the parts that do not hang together with it go'],
                ['KeyG', 'fill', 'fill inside', PaintBucket, 'what it encloses on all sides']
              ] as const
            ).map(([code, op, word, icon, hint]): Cap => ({
              code,
              word,
              icon,
              hint,
              off: mask ?? (surface.reworking ? 'it is being worked on' : undefined),
              press: this.#done(() => hand.one && void surface.rework(hand.one, op))
            }))
          ]
        },
        {
          name: '',
          caps: [
            {
              code: 'KeyZ',
              word: 'here too',
              icon: Copy,
              off: mask ?? this.#slices,
              hint: 'as it is on its nearest slice',
              press: this.#done(() => hand.one && surface.hereToo(hand.one))
            },
            {
              code: 'KeyX',
              word: 'not here',
              icon: Eraser,
              off: mask ?? this.#slices,
              hint: 'not on this slice',
              press: this.#done(() => hand.one && surface.notHere(hand.one))
            },
            {
              code: 'KeyB',
              word: 'subtract',
              icon: SquaresSubtract,
              off: this.#look ?? (hand.size === 2 ? undefined : 'take two into hand, with Shift: the first loses what the second covers'),
              hint: 'the first in hand loses what the second covers, on all slices',
              press: this.#done(() => hand.all[0] && hand.all[1] && surface.subtract(hand.all[0], hand.all[1]))
            }
          ]
        }
      ];
    }
  };
}
