import { api, ApiError, ask, sendPiece, type Schemas } from '$lib/api/client';

export type Job = { path: string; file: File; sent: number; state: 'waiting' | 'sending' | 'sent' | 'failed'; reason: string };

/** Files announced at a time. */
const LOT = 100;
/** Files up to which they are sent one after the other. */
const HANDFUL = 20;

/** Sends files in pieces, of many two at a time; after a break it goes on where the server says it stopped. */
export class Uploader {
  jobs = $state<Job[]>([]);
  importId = $state<number | null>(null);
  paused = $state('');
  #busy = false;

  constructor(
    private readonly project: number,
    private readonly options: {
      again: boolean;
      labels?: { format: string; as: string; empty: string };
      texts?: { format: string; as: string; empty: string };
      files?: { bundles?: boolean; resolution?: number; slices?: number[]; frames?: boolean };
    },
    /** asked when all files are there, before they are taken: what their columns mean; null: they are let go */
    private readonly columns: ((id: number) => Promise<Schemas['TextColumns'] | null | undefined>) | null = null
  ) {}

  get bytes(): number {
    return this.jobs.reduce((sum, job) => sum + job.file.size, 0);
  }

  get sent(): number {
    return this.jobs.reduce((sum, job) => sum + job.sent, 0);
  }

  get busy(): boolean {
    return this.jobs.some((job) => job.state === 'waiting' || job.state === 'sending');
  }

  add(files: { path: string; file: File }[]): void {
    this.jobs.push(...files.map(({ path, file }) => ({ path, file, sent: 0, state: 'waiting' as const, reason: '' })));
  }

  async run(): Promise<Schemas['Import'] | null> {
    if (this.#busy || this.jobs.length === 0) return null;
    this.#busy = true;
    try {
      const begun = await ask(
        api.POST('/projects/{project}/imports', {
          params: { path: { project: this.project } },
          body: {
            again: this.options.again,
            ...(this.options.labels ? { labels: this.options.labels } : {}),
            ...(this.options.files ? { files: this.options.files } : {}),
            ...(this.options.texts ? { texts: this.options.texts } : {})
          }
        })
      );
      this.importId = begun.id;
      const next = async (): Promise<void> => {
        for (let job = this.#take(); job; job = this.#take()) await this.#send(job, begun);
      };
      for (let lot = this.#lot(); lot.length > 0; lot = this.#lot()) {
        await this.#announce(lot, begun);
        // a handful comes in as it stands, and so lies in the queue; of many, two on their way are worth more than the order of neighbours
        await Promise.all(lot.length > HANDFUL ? [next(), next()] : [next()]);
      }
      const path = { params: { path: { project: this.project, import: begun.id } } };
      const columns = this.columns ? await this.columns(begun.id) : undefined;
      if (columns === null) return await ask(api.DELETE('/projects/{project}/imports/{import}', path));
      return await ask(
        api.POST('/projects/{project}/imports/{import}/finish', columns === undefined ? path : { ...path, body: { columns } })
      );
    } finally {
      this.#busy = false;
    }
  }

  /** What the server has of a file that was announced. */
  #told = new Map<Job, Schemas['ImportFile']>();

  #lot(): Job[] {
    return this.jobs.filter((j) => j.state === 'waiting').slice(0, LOT);
  }

  #take(): Job | undefined {
    const job = this.jobs.find((j) => j.state === 'waiting' && this.#told.has(j));
    if (job) job.state = 'sending';
    return job;
  }

  /** Many files in one request, since each costs as much as a small picture. One that is refused is refused alone. */
  async #announce(lot: Job[], begun: Schemas['Import']): Promise<void> {
    await this.#persist(lot, async () => {
      const waiting = lot.filter((job) => job.state === 'waiting');
      const { data } = await ask(
        api.POST('/projects/{project}/imports/{import}/files/many', {
          params: { path: { project: this.project, import: begun.id } },
          body: { files: waiting.map((job) => ({ path: job.path, bytes: job.file.size })) }
        })
      );
      waiting.forEach((job, i) => this.#told.set(job, data[i]!));
    });
  }

  async #send(job: Job, begun: Schemas['Import']): Promise<void> {
    let file = this.#told.get(job)!;
    await this.#persist([job], async (again) => {
      // after a break the server says how much of it came
      if (again) file = await this.#ask(job, begun);
      job.sent = file.received;
      while (file.state === 'receiving') {
        file = await sendPiece(
          this.project,
          begun.id,
          file.id,
          file.received,
          job.file.slice(file.received, file.received + begun.piece_bytes)
        );
        job.sent = file.received;
        this.paused = '';
      }
      job.sent = job.file.size;
      job.state = 'sent';
    });
    this.#told.delete(job);
  }

  #ask(job: Job, begun: Schemas['Import']): Promise<Schemas['ImportFile']> {
    return ask(
      api.POST('/projects/{project}/imports/{import}/files', {
        params: { path: { project: this.project, import: begun.id } },
        body: { path: job.path, bytes: job.file.size }
      })
    );
  }

  /** Tries until it is done, or the server says why it never will be. */
  async #persist(jobs: Job[], work: (again: boolean) => Promise<void>): Promise<void> {
    for (let wait = 1, again = false; ; wait = Math.min(wait * 2, 15), again = true) {
      try {
        return await work(again);
      } catch (e) {
        const error = e as ApiError;
        // which of many was refused is in the place of the error; the others go on without it
        const which = Number(/^files\[(\d+)\]/.exec(error.problem?.field ?? '')?.[1] ?? NaN);
        const left = jobs.filter((job) => job.state === 'waiting');
        if (error.isOffline || [401, 419, 503].includes(error.status) || error.code === 'wrong_offset') {
          // no answer, signed out meanwhile or busy: again from where it stopped
          this.paused = error.code === 'wrong_offset' ? '' : 'waiting for the server; sending goes on by itself';
          await new Promise((done) => setTimeout(done, wait * 1000));
        } else if (left[which]) {
          [left[which].state, left[which].reason] = ['failed', error.message];
          if (left.length === 1) return;
        } else {
          for (const job of jobs) [job.state, job.reason] = ['failed', error.message];
          return;
        }
      }
    }
  }
}

type Entry = {
  isFile: boolean;
  isDirectory: boolean;
  name: string;
  file(ok: (file: File) => void, no: (e: unknown) => void): void;
  createReader(): { readEntries(ok: (entries: Entry[]) => void, no: (e: unknown) => void): void };
};

/** The files of a drop, folders with their sub-folders. */
export async function dropped(data: DataTransfer): Promise<{ path: string; file: File }[]> {
  const entries = [...data.items].map((item) => item.webkitGetAsEntry() as unknown as Entry | null);
  const files: { path: string; file: File }[] = [];
  const walk = async (entry: Entry, into: string): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((ok, no) => entry.file(ok, no));
      files.push({ path: into + entry.name, file });
    } else if (entry.isDirectory) {
      const reader = entry.createReader();
      // a reader gives its entries in lots, the last one empty
      for (;;) {
        const lot = await new Promise<Entry[]>((ok, no) => reader.readEntries(ok, no));
        if (lot.length === 0) break;
        for (const inner of lot) await walk(inner, `${into}${entry.name}/`);
      }
    }
  };
  for (const entry of entries) if (entry) await walk(entry, '');
  return files;
}
