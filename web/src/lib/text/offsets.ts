/**
 * Places in a text are counted in code points, as the server counts them; strings of the browser are counted in UTF-16. The two differ by one for
 * every sign beyond the basic plane before a place, and most texts have none.
 */
export class Offsets {
  /** code points that take two units, in order */
  readonly #wide: number[] = [];
  readonly length: number;

  constructor(readonly body: string) {
    let at = 0;
    for (let i = 0; i < body.length; i++, at++) {
      const unit = body.charCodeAt(i);
      if (unit >= 0xd800 && unit < 0xdc00) {
        this.#wide.push(at);
        i++;
      }
    }
    this.length = at;
  }
  /** The unit at which a code point begins. */
  unit(offset: number): number {
    return offset + this.#before(offset);
  }
  /** The code point a unit belongs to. */
  offset(unit: number): number {
    let [low, high] = [0, this.#wide.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      // the nth wide sign begins at its code point and n units
      if (this.#wide[middle]! + middle < unit) low = middle + 1;
      else high = middle;
    }
    // within a pair it is the sign the pair is of
    const inside = low > 0 && this.#wide[low - 1]! + low - 1 === unit - 1;
    return inside ? this.#wide[low - 1]! : unit - low;
  }
  words(start: number, end: number): string {
    return this.body.slice(this.unit(start), this.unit(end));
  }
  #before(offset: number): number {
    let [low, high] = [0, this.#wide.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#wide[middle]! < offset) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
