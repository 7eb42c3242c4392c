import type { Schemas } from '$lib/api/client';
import type { Anchor, BenchPorts } from './ports';
import type { Cap, Row } from '$lib/keys/caps';
import type { Layer } from '$lib/keys/layers';
import type { Mark } from '$lib/words/mark';
import type { Component } from 'svelte';

export type { Anchor, BenchPorts, Overlay } from './ports';
export type { Cap } from '$lib/keys/caps';
export type Item = Schemas['Item'];

/** Something that is still to do on the item, and what leads to it. */
export type Todo = { word: string; count: number; lead: () => void };
/** The files of an item, loaded or on their way. */
export interface Media {
  close(): void;
}
export type Settings = Schemas['User']['settings'];

/**
 * A kind of item: a picture, a clip, a text. It knows how its files are loaded and how one works on them; the shell of the bench knows no more
 * of it than this. One is made for each bench, so that what a hand has set stays from item to item.
 */
export interface Kind {
  /** kinds of marks that are drawn on it */
  readonly shapes: readonly Mark['kind'][];
  /** Loads what the item shows; also ahead of its turn. */
  load(item: Item): Media;
  open(item: Item, media: Media, ports: BenchPorts): Surface;
  /** the settings of one person */
  take(settings: Settings): void;
}

/** What a cap of the deck the shell leaves to the kind. Codes the kind leaves out are the shell's. */
export type Caps = {
  /** Q, W, E, T */
  tools: Cap[];
  /** A, D, F, G */
  verbs: { name: string; caps: Cap[] };
  /** Z, X, B */
  view: { name: string; caps: Cap[] };
};

/** One item on the bench. */
export interface Surface {
  /** what is drawn; gets the surface as its one property */
  readonly Stage: Component<{ surface: Surface; name: string }>;
  /** what the item is called on the deck: picture, clip */
  readonly noun: string;
  /** how it is shown to this person; gets the surface and what to call when something was changed */
  readonly Preferences?: Component<{ surface: Surface; keep: () => void }>;
  /** more about a mark in hand, in its row of the ledger */
  readonly Detail?: Component<{ surface: Surface; mark: Mark }>;
  /** what waits for a decision of the hand, above the list of marks */
  readonly Note?: Component<{ surface: Surface }>;
  /** in place of the ribbon of the queue: the time of a clip, the pages of a document; gets the surface */
  readonly Strip?: Component<{ surface: Surface }>;
  /** lies over the cell of this item in the ribbon */
  readonly Badge?: Component<{ surface: Surface }>;
  /** shows a mark or a place, about half the stage or in its middle; null: all of it */
  show(what: Mark | Anchor | null): void;
  /** what is known of the file, as words; the first ones matter most */
  facts(): string[];
  /** goes to a place on the item's axis */
  go?(place: number): Promise<void>;
  /** the place that is shown, for a pin that is set there */
  readonly place?: number;
  caps(): Caps;
  /** caps of the page of the mark in hand, on T, A, D, F, G, B */
  ofMark(): Cap[];
  /** further pages of the deck, by name */
  readonly pages: Record<string, () => Row[]>;
  readonly keys: Layer;
  /** beside what the shell's layers say of keys, for the key map */
  readonly keyMap: { keys: string; what: string }[];
  /** a mark in words, and in a word or two */
  words(mark: Mark): string;
  short(mark: Mark): string;
  todo(): Todo[];
  /** something is half drawn: it has to be finished or left before the item is */
  readonly isDrawing: boolean;
  /** the item is on the stage, to be seen */
  readonly isShown: boolean;
  /** another class was chosen */
  chose(): void;
  /** a class was chosen for what is looked at, with no mark in hand; false: nothing is, and it is for what is drawn next */
  take?(key: string): boolean;
  /** by what a mark is known in its row, before its answers */
  lead?(mark: Mark): string;
  /** takes the pointer to picking, since a mark was taken from a list */
  picking(): void;
  /** a mark is to be drawn */
  drawing(): void;
  /** a pin is to be set on the next press, or not any more */
  pinning: boolean;
  /** a press on a mark says what the one in hand is a part of */
  wholing(): void;
  /** what waits to be told to the server before the item is left */
  settle(): Promise<void>;
  settings(): Settings;
  close(): void;
}
