<script lang="ts">
  /** Whether all that was done has arrived: saved, on its way, or waiting and why. */
  import type { Outbox } from './outbox.svelte';
  let { outbox, project }: { outbox: Outbox; project: number } = $props();
  const waiting = $derived(outbox.waiting(project));
  const held = $derived(outbox.heldOf(project).reduce((sum, h) => sum + h.count, 0));
  const words = $derived.by(() => {
    const { trouble } = outbox;
    if (waiting === 0) return held === 0 ? { sign: '●', word: 'saved' } : { sign: '◌', word: `${held} not taken` };
    if (trouble === null || trouble.what === 'busy') return { sign: '◐', word: 'saving' };
    const why = trouble.what === 'fault' ? 'server fault' : trouble.what;
    return { sign: '○', word: `${why}, ${waiting} waiting` };
  });
</script>

<span
  class="saved"
  class:waits={words.sign === '○' || words.sign === '◌'}
  role="status"
  aria-label="saved state"
  title={outbox.trouble?.said}>{words.sign} {words.word}</span
>

<style>
  .saved {
    min-width: 68px;
    white-space: nowrap;
    color: var(--soft);
  }
  .waits {
    color: var(--accent-text);
  }
</style>
