import { api, ask, type Schemas } from '$lib/api/client';
import { shelf } from './shelf';

/** The project a page is about, shared by the rail and the pages. */
export class ProjectState {
  project = $state<Schemas['Project'] | null>(null);
  error = $state('');

  constructor(readonly id: number) {}

  async load(): Promise<void> {
    try {
      this.project = await shelf.or(`project-${this.id}`, ask(api.GET('/projects/{project}', { params: { path: { project: this.id } } })));
      this.error = '';
    } catch (e) {
      this.error = (e as Error).message;
    }
  }

  may(ability: string): boolean {
    return this.project?.abilities.includes(ability) ?? false;
  }
}

export const states = ['new', 'waiting', 'open', 'returned', 'parked', 'submitted', 'accepted', 'archived'] as const;
export const parts = (id: number) => ({ params: { path: { project: id } } });
