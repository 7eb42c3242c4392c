import type { Schemas } from '$lib/api/client';

type Task = Schemas['PromptTask'];

/** A prompt that is being written. */
export type Draft = { name: string; model: number | null; task: Task; words: string };

const place = (project: number): string => `skeno prompt ${project}`;

/** What was being written in this browser and is not saved yet. */
export function keptDraft(project: number): Draft | null {
  try {
    const found = JSON.parse(localStorage.getItem(place(project)) ?? 'null') as Draft | null;
    return found !== null && typeof found.words === 'string' && typeof found.name === 'string' && Array.isArray(found.task?.classes)
      ? found
      : null;
  } catch {
    // what somebody else has written there is no draft
    return null;
  }
}
/** @returns false where the browser keeps nothing: it has to be said */
export function keepDraft(project: number, draft: Draft | null): boolean {
  try {
    if (draft === null) localStorage.removeItem(place(project));
    else localStorage.setItem(place(project), JSON.stringify(draft));
    return true;
  } catch {
    return false;
  }
}

export const sameTask = (a: Task, b: Task): boolean =>
  (['classes', 'questions', 'tags'] as const).every((of) => a[of].length === b[of].length && a[of].every((key) => b[of].includes(key)));
export const isEmpty = (task: Task): boolean => task.classes.length + task.questions.length + task.tags.length === 0;
/** What of a task a codebook still has, in its order. */
export const within = (task: Task, all: Task): Task => ({
  classes: all.classes.filter((key) => task.classes.includes(key)),
  questions: all.questions.filter((key) => task.questions.includes(key)),
  tags: all.tags.filter((key) => task.tags.includes(key))
});
