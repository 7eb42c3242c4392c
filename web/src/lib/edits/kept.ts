/** Small things of one turn that survive a reload of the tab: locks, what is half drawn, what is being written. */
export class Kept {
  constructor(
    private readonly user: number,
    private readonly turn: number
  ) {}

  get<T>(what: string): T | null {
    try {
      return JSON.parse(sessionStorage.getItem(this.#key(what)) ?? 'null') as T | null;
    } catch {
      return null;
    }
  }
  /** Null forgets it. */
  set(what: string, value: unknown): void {
    try {
      if (value === null) sessionStorage.removeItem(this.#key(what));
      else sessionStorage.setItem(this.#key(what), JSON.stringify(value));
    } catch {
      // the store is full or switched off: it stays for this visit
    }
  }
  #key(what: string): string {
    return `skeno-${what}-${this.user}-${this.turn}`;
  }
}
