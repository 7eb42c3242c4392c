import { api, ask, type Schemas } from '$lib/api/client';

type Run = Schemas['Run'];

/** Runs of a project over many items, whoever is asked in them. */
export class RunList {
  runs = $state.raw<Run[]>([]);

  /** @param attempt does what may fail, and says why where it has */
  constructor(
    private readonly project: number,
    private readonly attempt: (work: () => Promise<void>) => Promise<boolean>,
    private readonly isClosed: () => boolean
  ) {}

  async read(): Promise<Run[]> {
    const { data } = await ask(api.GET('/projects/{project}/runs', { params: { path: { project: this.project } } }));
    return data;
  }
  add(run: Run): void {
    if (!this.isClosed()) this.runs = [run, ...this.runs];
  }
  /** Pauses, goes on, stops or takes back. */
  async act(run: Run, what: 'pause' | 'resume' | 'cancel' | 'take-back'): Promise<void> {
    await this.attempt(async () => {
      const params = { path: { project: this.project, run: run.id } };
      const now = await ask(api.POST(`/projects/{project}/runs/{run}/${what}` as '/projects/{project}/runs/{run}/pause', { params }));
      if (!this.isClosed()) this.runs = this.runs.map((r) => (r.id === now.id ? now : r));
    });
  }
  /** What people have made of what one has suggested. */
  async outcome(run: number): Promise<Schemas['Outcome'] | null> {
    let found: Schemas['Outcome'] | null = null;
    await this.attempt(async () => {
      const params = { path: { project: this.project, run } };
      found = await ask(api.GET('/projects/{project}/runs/{run}/outcome', { params }));
    });
    return this.isClosed() ? null : found;
  }
}
