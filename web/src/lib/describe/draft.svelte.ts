import { api, ApiError, ask, type Schemas } from '$lib/api/client';
import { parts } from '$lib/state/project.svelte';

type Orphan = Schemas['Orphan'];
type Document = Schemas['CodebookDocument'];
/** What is not saved yet, as this browser keeps it; `base` is the version it was begun on. */
type Unsaved = { base: number; doc: Document; mapping: Record<string, string | null>; note: string };

/** A codebook being edited: looked at by the core after every change, with what labels in use would become. */
export class Draft {
  doc = $state<Schemas['CodebookDocument'] | null>(null);
  version = $state(0);
  versions = $state.raw<Schemas['CodebookVersion'][]>([]);
  check = $state.raw<Schemas['CodebookCheck']>({ errors: [], orphans: [], report: [], rewrites: false });
  /** where words in use go: by address, null to take away */
  mapping = $state<Record<string, string | null>>({});
  /** everything that has been an orphan, so that a settled one can be settled otherwise */
  questions = $state<Record<string, Orphan>>({});
  error = $state('');
  saved = $state('');
  note = $state('');
  /** labels on their way into the words of the version just saved */
  underWay = $state.raw<{ version: number; done: number; total: number } | null>(null);
  /** something is not saved */
  dirty = $state(false);
  /** what was not saved the last time one was here, brought back */
  broughtBack = $state('');
  #timer: ReturnType<typeof setTimeout> | undefined;
  #asked = 0;
  #loaded = '';
  #waits = true;
  readonly #key: string;

  constructor(
    readonly project: number,
    user: number
  ) {
    this.#key = `skeno-draft-${user}-${project}`;
  }

  async load(): Promise<void> {
    this.show(await ask(api.GET('/projects/{project}/codebook', parts(this.project))));
    this.#recall();
    await this.loadVersions();
    const { change } = await ask(api.GET('/projects/{project}/codebook/change', parts(this.project)));
    if (change) void this.#wait();
  }
  async loadVersions(): Promise<void> {
    this.versions = (await ask(api.GET('/projects/{project}/codebook/versions', parts(this.project)))).data;
  }
  show(codebook: Schemas['Codebook']): void {
    this.version = codebook.version;
    this.doc = structuredClone(codebook.document);
    this.mapping = {};
    this.questions = {};
    this.#loaded = JSON.stringify(codebook.document);
    this.dirty = false;
  }
  /** What was changed here and not saved is there again. */
  #recall(): void {
    let kept: Unsaved | null;
    try {
      kept = JSON.parse(localStorage.getItem(this.#key) ?? 'null') as Unsaved | null;
    } catch {
      kept = null;
    }
    if (!kept || JSON.stringify(kept.doc) === this.#loaded) return;
    this.doc = kept.doc;
    this.mapping = kept.mapping;
    this.note = kept.note;
    this.broughtBack =
      kept.base === this.version
        ? 'what you had not saved is here again'
        : `what you had not saved is here again; it was begun on version ${kept.base}, and version ${this.version} has come since: saved, it takes its place`;
  }
  #keep(doc: Document, mapping: Record<string, string | null>): void {
    // (not read back from the state: whoever looks would look again when it is left as it is)
    const dirty = (this.dirty = JSON.stringify(doc) !== this.#loaded);
    try {
      if (dirty) localStorage.setItem(this.#key, JSON.stringify({ base: this.version, doc, mapping, note: this.note } satisfies Unsaved));
      else localStorage.removeItem(this.#key);
    } catch {
      // no room: leaving asks first
    }
  }
  /** What is not saved is gone, here and in what is kept. */
  forget(): void {
    if (this.#loaded !== '') this.doc = JSON.parse(this.#loaded) as Document;
    this.mapping = {};
    this.questions = {};
    try {
      localStorage.removeItem(this.#key);
    } catch {
      // nothing was kept
    }
    this.broughtBack = this.note = '';
    this.dirty = false;
  }
  /** From what is in force, once it is here again. */
  async startOver(): Promise<void> {
    const codebook = await ask(api.GET('/projects/{project}/codebook', parts(this.project)));
    this.forget();
    this.show(codebook);
  }
  close(): void {
    this.#waits = false;
    clearTimeout(this.#timer);
    this.#asked++;
  }

  get settled(): boolean {
    return this.check.errors.length === 0 && this.check.orphans.length === 0;
  }

  /** Called after every change, by hand or of the mapping; the core looks a moment after the last one. */
  look(document: Schemas['CodebookDocument'], mapping: Record<string, string | null>): void {
    this.#keep(document, mapping);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.#look(document, mapping), 250);
  }
  async #look(document: Schemas['CodebookDocument'], mapping: Record<string, string | null>): Promise<void> {
    const asked = ++this.#asked;
    try {
      const check = await ask(
        api.POST('/projects/{project}/codebook/check', { ...parts(this.project), body: { document: { ...document }, mapping } })
      );
      if (asked !== this.#asked) return;
      this.check = check;
      for (const o of check.orphans) {
        this.questions[o.address] = o;
        // the same word under another key needs no asking
        const same = o.choices.find((c) => c.key === o.guess && c.name.toLowerCase() === o.name.replace(/^.*: /, '').toLowerCase());
        if (same && !(o.address in this.mapping)) this.mapping[o.address] = same.key;
      }
    } catch (e) {
      if (asked !== this.#asked) return;
      const field = e instanceof ApiError ? (e.problem.field ?? '') : '';
      // what an entry led to has been changed since: it is asked about anew
      if (field.startsWith('mapping.') && field.slice(8) in this.mapping) delete this.mapping[field.slice(8)];
      else this.error = (e as Error).message;
    }
  }
  settle(address: string, to: string | null | undefined): void {
    if (to === undefined) delete this.mapping[address];
    else this.mapping[address] = to;
  }

  async save(): Promise<void> {
    this.error = this.saved = this.broughtBack = '';
    try {
      const version = this.version;
      const codebook = await ask(
        api.PUT('/projects/{project}/codebook', {
          ...parts(this.project),
          body: { base: version, document: { ...$state.snapshot(this.doc) }, note: this.note, mapping: $state.snapshot(this.mapping) }
        })
      );
      this.note = '';
      if (codebook.version === version) await this.#wait();
      else {
        this.show(codebook);
        this.saved = `saved as version ${codebook.version}`;
      }
      await this.loadVersions();
    } catch (e) {
      const problem = e as ApiError;
      this.error = problem.message;
      if (problem.code === 'codebook_changed' && problem.problem.version) this.version = problem.problem.version;
    }
  }

  /** Until every label is in the new words. */
  async #wait(): Promise<void> {
    while (this.#waits) {
      const { change } = await ask(api.GET('/projects/{project}/codebook/change', parts(this.project)));
      this.underWay = change;
      if (change === null) break;
      await new Promise((done) => setTimeout(done, 700));
    }
    if (!this.#waits) return;
    const codebook = await ask(api.GET('/projects/{project}/codebook', parts(this.project)));
    this.show(codebook);
    this.saved = `version ${codebook.version} is in force`;
    await this.loadVersions();
  }

  async goBack(version: number): Promise<void> {
    const old = await ask(
      api.GET('/projects/{project}/codebook', { params: { path: { project: this.project }, query: { version: String(version) } } })
    );
    this.doc = structuredClone(old.document);
    this.note = `back to version ${version}`;
  }
}
