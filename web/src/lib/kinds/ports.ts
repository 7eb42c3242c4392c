import type { AskFit } from '$lib/time/fit.svelte';
import type { AskRecut } from '$lib/time/recut.svelte';
import type { AskFollow } from '$lib/time/follow.svelte';
import type { Schemas } from '$lib/api/client';
import type { Found, Wish } from '$lib/plane/cutout.svelte';
import type { PoseWish, Posed } from '$lib/plane/posing.svelte';
import type { PatchedPart } from '$lib/plane/patches.svelte';
import type { Acts } from '$lib/edits/acts';
import type { Asking } from '$lib/edits/asking.svelte';
import type { Editor } from '$lib/edits/editor.svelte';
import type { Findings } from '$lib/edits/findings.svelte';
import type { Chosen, Hand } from '$lib/edits/hand.svelte';
import type { Kept } from '$lib/edits/kept';
import type { Cuboid, Mark, Mask, TrackKey } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';

/** Where a pin sits: a place on the item, and the mark it is about. */
export type Anchor = {
  x: number | null;
  y: number | null;
  /** in a text */
  offset?: number | null;
  mark: string | null;
  /** on the item's axis */
  place?: number | null;
};

/** A second list of marks, only to look at, that lies over the first: an earlier round's, a model's, another person's. */
export type Overlay = {
  /** in a word or two, as the key's cap says it */
  name: string;
  line: 'dashed' | 'dotted';
  marks: readonly Mark[];
  /** the one that is looked at now */
  strong?: string | null;
  /** those that are filled a little, to be told from the others */
  filled?: ReadonlySet<string>;
  /** one of them was pressed, where no mark lies over it */
  pick?: (id: string) => void;
  /** of its tracks, in order */
  keys?: readonly TrackKey[];
};

/** A shape at a place of the axis. */
export type Placed = { place: number; geometry: Mark['geometry'] };

/** What the bench lends a kind. */
export type BenchPorts = {
  words: Words;
  editor: Editor;
  hand: Hand;
  chosen: Chosen;
  acts: Acts;
  asking: Asking;
  findings: Findings;
  kept: Kept;
  project: number;
  user: number;
  turn: number;
  /** label: it is worked on; review: it is decided on; look: nothing can be changed */
  mode: 'label' | 'review' | 'look';
  seen: Schemas['Packet']['seen'];
  slipGuard: boolean;
  pins: () => readonly Schemas['Pin'][];
  overlays: () => readonly Overlay[];
  say: (message: string) => void;
  compute: (
    mark: Mark,
    what: { op: 'outline' | 'fill' | 'mend' | 'tight' | 'looks' | 'words'; n: number; place?: number }
  ) => Promise<Schemas['Computed']>;
  /** the outline of what is in a rough box, at a place of the axis */
  /** @param plane of a volume, one that stands on the slices: `xz-12` */
  cutOut: (wish: Wish, signal: AbortSignal, place?: number, plane?: string) => Promise<Found>;
  /** the nodes of a skeleton that was laid roughly, at a place of the axis */
  pose: (wish: PoseWish, signal: AbortSignal, place?: number) => Promise<Posed>;
  /** classes whose skeletons can be fitted so */
  fits: readonly string[];
  /** small regions of a part of the picture that follow its edges, at a place of the axis */
  patches: (part: PatchedPart, side: number, signal: AbortSignal, place?: number, plane?: string) => Promise<ArrayBuffer>;
  /** what the core works out between two keys of a track, from one place to another */
  between: (mark: Mark, keys: { from: TrackKey; to: TrackKey }, first: number, last: number) => Promise<Mark['geometry'][]>;
  /** a region of a volume grown from a voxel: x, y, slice */
  grow: (
    wish: { seed: [number, number, number]; low: number; high: number; distance: number },
    signal: AbortSignal
  ) => Promise<{ slices: { place: number; geometry: Mask }[]; voxels: number; ml: number; cut: boolean }>;
  /** an object of a volume as one body: its largest part, smoothed, what it encloses filled */
  solid: (
    op: 'largest' | 'smooth' | 'fill',
    slices: { place: number; geometry: Mask }[]
  ) => Promise<{ slices: { place: number; geometry: Mask }[]; parts: number | null }>;
  /** a cuboid fitted to the points of a frame of a cloud: from a drag on the ground, or tighter than it was */
  fitCuboid: (
    wish: { frame: number } & ({ from: [number, number]; to: [number, number]; typical?: [number, number, number] } | { cuboid: Cuboid }),
    signal: AbortSignal
  ) => Promise<{ geometry: Cuboid; points: number; found: boolean }>;
  /** where an object is on the next frames, by its looks */
  follow: AskFollow;
  /** an object cut out again on later frames */
  recut: AskRecut;
  /** at which of some frames what lies between the keys of a track fits worst */
  fit: AskFit;
  /** which of what was found have to be keys */
  thin: (mark: Mark, shapes: Placed[]) => Promise<number[]>;
  /** words that were marked in this project */
  phrases: () => Promise<{ words: string; class: string; count: number }[]>;
  tellSeen: (cells: string) => Promise<unknown>;
  /** a pin is to be written at a place; null: not any more */
  pin: (at: Anchor | null) => void;
  /** opens a page of the deck, or closes it */
  page: (name: string | null) => void;
};
