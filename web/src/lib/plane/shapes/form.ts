import type { Box, FlatKind, Point, Ring, Shape } from '$lib/words/mark';
import type { Size, View } from '../view';

export type Pen = CanvasRenderingContext2D | Path2D;
/** A place that can be pulled. `key` says what it moves; `dot` ones are points of the shape, the others pull its extent. */
export type Handle = { key: string; at: Point; cursor: string; dot?: boolean; faint?: boolean; hidden?: boolean };
export type GeometryOf<K extends FlatKind> = Extract<Shape, { kind: K }>['geometry'];

/**
 * What a hand needs of a kind of shape, each in a file of its own. Coordinates are px of the picture; `scale` is px of the screen for one of
 * them; `bones` join nodes by their keys.
 */
export interface Form<G> {
  bounds(g: G): Box;
  /** Distance of a place from the nearest line or point of it; Infinity where it has none. */
  line(g: G, p: Point, bones: [string, string][]): number;
  /** The rings of a shape that covers an area (even-odd). */
  outline?(g: G): Ring[];
  /** Whether a place lies on it, where that is not told by its outline. */
  covers?(g: G, p: Point): boolean;
  handles(g: G, scale: number): Handle[];
  /** With one handle pulled to a place. @param to where the pointer is, @param p the same within the picture */
  pulled(g: G, key: string, to: Point, p: Point, picture: Size): G;
  /** Moved as a whole, by what leaves it on the picture. */
  moved(g: G, dx: number, dy: number): G;
  /** Without one of its points; null when it needs them all. Absent where it has no points. */
  without?(g: G, key: string): G | null;
  /** Keys of its points, in order, for who goes from one to the next. */
  points?(g: G): string[];
  /** Where the sign of its class stands, where not at the corner of its extent. */
  anchor?(g: G): Point;
  /** In words; the extent is said behind them. */
  describe(g: G): string;
  /** In a word or two, where no answer says more; absent: its extent. */
  short?(g: G): string;
  trace(pen: Pen, v: View, g: G, bones: [string, string][]): void;
  /** Points and nodes, which are no lines. */
  dots?(c: CanvasRenderingContext2D, v: View, g: G, bones: [string, string][], color: string, lit: boolean): void;
}
