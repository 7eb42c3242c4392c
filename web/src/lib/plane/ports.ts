import type { Schemas } from '$lib/api/client';
import type { AskCutout } from './cutout.svelte';
import type { AskPose } from './posing.svelte';
import type { AskPatches } from './patches.svelte';
import type { Acts } from '$lib/edits/acts';
import type { Asking } from '$lib/edits/asking.svelte';
import type { Editor } from '$lib/edits/editor.svelte';
import type { Findings } from '$lib/edits/findings.svelte';
import type { Chosen, Hand } from '$lib/edits/hand.svelte';
import type { Kept } from '$lib/edits/kept';
import type { Mark, Point } from '$lib/words/mark';
import type { Words } from '$lib/words/words.svelte';

/** What the server is asked to work out on a mark. */
export type Computation = { op: 'outline' | 'fill' | 'mend' | 'tight' | 'looks' | 'words'; n: number };
/** Marks that are only looked at, over the others and told from them by their line. */
export type Overlay = {
  name: string;
  line: 'dashed' | 'dotted';
  marks: readonly Mark[];
  /** the one that is looked at now */
  strong?: string | null;
  /** those that are filled a little, to be told from the others */
  filled?: ReadonlySet<string>;
  /** one of them was pressed, where no mark lies over it */
  pick?: (id: string) => void;
};

/** Doors of a flat surface to the rest of the bench; it knows no more of it. */
export type PlanePorts = {
  words: Words;
  editor: Editor;
  hand: Hand;
  chosen: Chosen;
  acts: Acts;
  asking: Asking;
  findings: Findings;
  kept: Kept;
  item: { id: number; width: number; height: number };
  project: number;
  user: number;
  /** pins of this very turn are told from earlier ones */
  turn: number;
  mode: 'label' | 'review' | 'look';
  seen: { cells: string; zoom: number; required: boolean };
  slipGuard: boolean;
  pins: () => readonly Schemas['Pin'][];
  overlays: () => readonly Overlay[];
  say: (message: string) => void;
  compute: (mark: Mark, what: Computation) => Promise<Schemas['Computed']>;
  /** the outline of what is in a rough box */
  cutOut: AskCutout;
  /** the nodes of a skeleton that was laid roughly */
  pose: AskPose;
  /** classes whose skeletons can be fitted so */
  fits: readonly string[];
  /** small regions that follow edges */
  patches: AskPatches;
  tellSeen: (cells: string) => Promise<unknown>;
  pin: (at: (Point & { mark: string | null }) | null) => void;
  /** the place of the item's axis that is shown */
  place?: () => number;
  /** pictures lie under each other: the wheel goes along them, and zooms with Ctrl */
  scrolls?: boolean;
  /** told where a press begins, before it does anything: px of the picture, perhaps beside it */
  under?: (at: Point) => void;
  /** the wheel goes through a stack of pictures, one after the other, and zooms with Ctrl */
  through?: (by: 1 | -1) => void;
  /** a mask whose last pixel here is wiped off goes on elsewhere */
  goesOn?: (mark: Mark) => boolean;
  /** a mark was drawn by hand */
  drawn?: (mark: Mark) => void;
};
