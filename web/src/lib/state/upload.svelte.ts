import { api, ApiError, ask, sendPiece, type Schemas } from '$lib/api/client';

export type Job = { path: string; file: File; sent: number; state: 'waiting' | 'sending' | 'sent' | 'failed'; reason: string };

/** Sends files in pieces, two at a time; after a break it goes on where the server says it stopped. */
export class Uploader {
  jobs = $state<Job[]>([]);
  importId = $state<number | null>(null);
  paused = $state('');
  #busy = false;

  constructor(
    private readonly project: number,
    private readonly options: { again: boolean; labels?: { format: string; as: string; empty: string } }
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
          body: { again: this.options.again, ...(this.options.labels ? { labels: this.options.labels } : {}) }
        })
      );
      this.importId = begun.id;
      const next = async (): Promise<void> => {
        for (let job = this.#take(); job; job = this.#take()) await this.#send(job, begun);
      };
      await Promise.all([next(), next()]);
      return await ask(
        api.POST('/projects/{project}/imports/{import}/finish', { params: { path: { project: this.project, import: begun.id } } })
      );
    } finally {
      this.#busy = false;
    }
  }

  #take(): Job | undefined {
    const job = this.jobs.find((j) => j.state === 'waiting');
    if (job) job.state = 'sending';
    return job;
  }

  async #send(job: Job, begun: Schemas['Import']): Promise<void> {
    for (let wait = 1; ; wait = Math.min(wait * 2, 15)) {
      try {
        let file = await ask(
          api.POST('/projects/{project}/imports/{import}/files', {
            params: { path: { project: this.project, import: begun.id } },
            body: { path: job.path, bytes: job.file.size }
          })
        );
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
        return;
      } catch (e) {
        const error = e as ApiError;
        // no answer, or signed out meanwhile: try again from where it stopped; anything else is about this file
        if (error.isOffline || error.status === 401 || error.status === 419 || error.code === 'wrong_offset') {
          this.paused = error.code === 'wrong_offset' ? '' : 'waiting for the server; sending goes on by itself';
          await new Promise((done) => setTimeout(done, wait * 1000));
        } else {
          job.state = 'failed';
          job.reason = error.message;
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
