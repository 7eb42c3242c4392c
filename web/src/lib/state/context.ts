import { getContext } from 'svelte';
import type { ProjectState } from './project.svelte';

/** The project of the page, put there by the layout of /p/[id]. */
export const useProject = (): ProjectState => getContext<() => ProjectState>('project')();
