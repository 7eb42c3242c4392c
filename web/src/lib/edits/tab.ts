import { ulid } from './ulid';

const KEY = 'skeno-tab';

/**
 * Which tab of the browser this is, kept over a reload, and which others are alive: each holds a lock of the browser as long as it lives
 * (Web Locks API). Where the browser has no locks, every tab is on its own.
 */
export class Tab {
  #id: Promise<string> | undefined;

  id(): Promise<string> {
    this.#id ??= this.#take(recall());
    return this.#id;
  }
  /** Takes a name nobody alive has: a tab that was doubled comes with the name of the other. */
  async #take(name: string): Promise<string> {
    const locks = theLocks();
    if (!locks) return remember(name);
    const free = await new Promise<boolean>((done) => {
      void locks.request(`${KEY}-${name}`, { ifAvailable: true }, (lock) => {
        done(lock !== null);
        // held until the tab is gone
        return lock === null ? undefined : new Promise<void>(() => {});
      });
    });
    return free ? remember(name) : this.#take(ulid());
  }

  /** Names of all tabs that are alive, of this one too; null when the browser can't say. */
  async alive(): Promise<Set<string> | null> {
    const locks = theLocks();
    if (!locks) return null;
    const { held } = await locks.query();
    return new Set((held ?? []).flatMap((l) => (l.name?.startsWith(`${KEY}-`) ? [l.name.slice(KEY.length + 1)] : [])));
  }

  /** Runs something while no other tab does the like. */
  async alone<T>(what: string, work: () => Promise<T>): Promise<T> {
    const locks = theLocks();
    return locks ? await locks.request(`skeno-${what}`, work) : work();
  }
}

const theLocks = (): LockManager | null => (typeof navigator !== 'undefined' && 'locks' in navigator ? navigator.locks : null);

function recall(): string {
  try {
    return sessionStorage.getItem(KEY) ?? ulid();
  } catch {
    return ulid();
  }
}
function remember(name: string): string {
  try {
    sessionStorage.setItem(KEY, name);
  } catch {
    // without a store the tab has another name after a reload, and finds its edits as those of a tab that is gone
  }
  return name;
}
