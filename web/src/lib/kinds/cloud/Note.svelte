<script lang="ts">
  /** What waits for a decision of the hand: cuboids with nothing in them, and those that hang in the air. */
  import type { Surface } from '../kind';
  import type { Mark } from '$lib/words/mark';
  import type { CloudSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as CloudSurface);
  const name = (marks: Mark[], one: string, more: string): string =>
    marks.length === 1 ? `${own.ports.acts.label(marks[0]!)} ${one}` : `${marks.length} cuboids ${more}`;
  const notes = $derived([
    ...(own.empty.length > 0 ? [name(own.empty, 'has no point in it', 'have no point in them')] : []),
    ...(own.floating.length > 0 ? [name(own.floating, 'hangs in the air', 'hang in the air')] : [])
  ]);
</script>

{#each notes as note (note)}<p class="note" role="status">{note} on this frame</p>{/each}

<style>
  .note {
    font-size: 12.5px;
    margin: 0;
    padding: 4px 10px;
    color: var(--accent-text, var(--accent));
  }
</style>
