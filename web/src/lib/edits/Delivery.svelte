<script lang="ts">
  /** What was not taken by the server, or can't be kept by this browser: seen, and settled, before it is lost. */
  import type { Conflict, Editor } from './editor.svelte';
  import type { Value } from './history';
  import type { Outbox } from './outbox.svelte';

  let {
    outbox,
    project,
    editor,
    turn,
    name,
    detail
  }: {
    outbox: Outbox;
    project: number;
    editor: Editor;
    /** the turn that is open here, or BESIDE */
    turn: number;
    /** what a value is of, in a word or two */
    name: (value: Value | null) => string;
    /** how a value differs from another, in figures */
    detail?: (value: Value) => string;
  } = $props();
  const figures = (c: Conflict) =>
    detail && c.mine && c.theirs && !('tags' in c.mine) ? `there ${detail(c.theirs)}, yours ${detail(c.mine)}` : '';
</script>

{#if outbox.unkept !== ''}
  <div class="note" role="alert">
    This browser can't keep what you do over a reload ({outbox.unkept}). It still goes to the server: wait for “saved” before you close the
    page.
  </div>
{/if}
{#each outbox.heldOf(project) as h (h.turn)}
  <div class="note" role="alert">
    {h.count}
    {h.count === 1 ? 'change' : 'changes'}{turn === h.turn ? '' : h.turn === 0 ? ' made beside the items' : ' of another item'} could not be delivered:
    {h.why}
    <div>
      <button class="act" onclick={() => outbox.again(project, h.turn)}>try again</button>
      <button class="act" onclick={() => outbox.drop(project, h.turn)}>let them go</button>
    </div>
  </div>
{/each}
{#each editor.conflicts as c (c.subject)}
  <div class="note" role="alert">
    {name(c.mine ?? c.theirs)}
    {c.refused === null ? 'was changed elsewhere meanwhile; it is shown as it is there.' : `was not taken: ${c.refused}`}
    {#if figures(c) !== ''}<div class="num soft">{figures(c)}</div>{/if}
    <div>
      <button class="act" onclick={() => editor.settle(c, true)}>{c.mine ? 'use mine' : 'remove it'}</button>
      <button class="act" onclick={() => editor.settle(c, false)}>{c.theirs || c.refused === null ? 'keep the other' : 'let it go'}</button>
    </div>
  </div>
{/each}

<style>
  .note {
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
    padding: 6px 10px;
    border-radius: 4px;
    margin: 6px 8px 0;
    font-size: 13px;
    display: grid;
    gap: 5px;
    overflow-wrap: anywhere;
  }
</style>
