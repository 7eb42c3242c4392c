<script lang="ts">
  /** Where one is, whether all is saved, and what finishes the item. */
  import Saved from '$lib/edits/Saved.svelte';
  import { BookOpen, Contrast, Keyboard, Redo2, Undo2 } from '@lucide/svelte';
  import type { Bench } from './bench.svelte';
  import type { Opened } from './opened.svelte';
  import type { BenchShell } from './shell.svelte';

  let { bench, opened, shell, back, leave }: { bench: Bench; opened: Opened; shell: BenchShell; back: string | null; leave: () => void } =
    $props();
  const turn = $derived(opened.packet.turn);
  const item = $derived(opened.packet.item);
  const canTakeUp = $derived(
    opened.mode === 'look' && !turn.held_by && (turn.state === 'waiting' || turn.state === 'returned' || turn.state === 'open')
  );
  const idle = $derived(bench.busy || bench.fresh);
</script>

<header>
  <nav class="crumbs" aria-label="where you are">
    <a href="/">Skeno</a> › <a href="/p/{bench.project}{opened.mode === 'review' ? '/check' : ''}">{opened.packet.project.name}</a> ›
    <span>{item.set || '(top)'}</span>
    › <strong>{item.name}</strong>
  </nav>
  {#if back}<a
      class="act"
      href={back}
      onclick={(e) => {
        e.preventDefault();
        leave();
      }}>back to the list</a
    >{/if}
  <span class="soft"
    >{#if bench.queue}<button
        class="where"
        title="go to an item by number or name (End)"
        aria-expanded={shell.going}
        onclick={() => (shell.going = !shell.going)}
        ><span class="num">{bench.queue.place}</span> of <span class="num">{bench.queue.total}</span></button
      >{/if}</span
  >
  {#if opened.mode === 'review'}<span class="mode"
      >review of {turn.labeller?.name ?? 'import'}{turn.round > 1 ? `, round ${turn.round}` : ''}</span
    >
  {:else if opened.mode === 'look'}<span class="mode">only to look at: {turn.held_by ? `open with ${turn.held_by.name}` : turn.state}</span
    >{#if canTakeUp}<button class="act" onclick={() => bench.takeUp()}>{turn.stage === 'label' ? 'Label it' : 'Review it'}</button>{/if}
  {:else if turn.round > 1}<span class="mode">round {turn.round}</span>{/if}
  <span class="push"></span>
  <button class="icon" disabled={!opened.editor.canUndo} aria-label="undo" title="undo (Ctrl Z)" onclick={() => opened.editor.undo()}
    ><Undo2 size={16} strokeWidth={1.75} /></button
  >
  <button class="icon" disabled={!opened.editor.canRedo} aria-label="redo" title="redo (Ctrl Shift Z)" onclick={() => opened.editor.redo()}
    ><Redo2 size={16} strokeWidth={1.75} /></button
  >
  {#if opened.surface.Preferences}<button
      class="icon"
      aria-label="view"
      title="how marks are shown"
      aria-pressed={shell.viewing}
      onclick={() => (shell.viewing = !shell.viewing)}><Contrast size={16} strokeWidth={1.75} /></button
    >{/if}
  <button class="icon" aria-label="key map" title="key map (?)" onclick={() => (shell.map = true)}
    ><Keyboard size={16} strokeWidth={1.75} /></button
  >
  <Saved outbox={bench.outbox} project={bench.project} />
  <button class="act" aria-pressed={shell.book !== null} onclick={() => shell.openBook()}
    ><BookOpen size={15} strokeWidth={1.75} />Handbook</button
  >
  {#if opened.mode === 'review'}
    <button class="act main" disabled={idle} onclick={() => bench.decide('accept', '')}>Accept</button>
  {:else if opened.mode === 'label'}
    <button class="act main" disabled={idle} onclick={() => bench.submit(false)}>{opened.doubted ? 'Submit anyway' : 'Submit'}</button>
  {:else if turn.can_take_back}<button class="act main" onclick={() => bench.takeBack()}>Take back</button>{/if}
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 0 12px;
    background: var(--panel);
    border-bottom: 1px solid var(--line);
    font-size: 13.5px;
    min-width: 0;
  }
  .crumbs {
    color: var(--soft);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .crumbs a {
    color: var(--ink);
    text-decoration: underline;
    text-decoration-color: var(--edge);
    text-underline-offset: 3px;
  }
  .crumbs strong {
    color: var(--ink);
    font-weight: 600;
  }
  .where {
    cursor: pointer;
    text-decoration: underline;
    text-decoration-color: var(--edge);
    text-underline-offset: 3px;
  }
  .mode {
    color: var(--accent-text);
    white-space: nowrap;
  }
  .push {
    flex: 1;
  }
  .icon {
    padding: 5px;
    border-radius: 4px;
    cursor: pointer;
  }
  .icon:disabled {
    opacity: 0.35;
    cursor: default;
  }
  header .act {
    padding: 3px 11px;
    white-space: nowrap;
  }
</style>
