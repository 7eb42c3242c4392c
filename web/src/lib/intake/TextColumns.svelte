<script lang="ts">
  /** Which column of a table is the text, which names it, which are facts: seen by its first rows before it is taken. */
  import type { Schemas } from '$lib/api/client';

  type Columns = Schemas['TextColumns'];
  let {
    seen,
    taken,
    left
  }: {
    seen: { columns: string[]; rows: Record<string, string>[]; guess: Columns };
    taken: (columns: Columns) => void;
    left: () => void;
  } = $props();
  // what is guessed, until a hand says otherwise
  let text = $derived(seen.guess.text ?? '');
  let id = $derived(seen.guess.id ?? '');
  let facts = $derived([...seen.guess.facts]);
  const meaning = (column: string): string =>
    column === text ? 'the text' : column === id ? 'names it' : facts.includes(column) ? 'a fact' : 'left out';
  function mean(column: string, as: string): void {
    if (text === column) text = '';
    if (id === column) id = '';
    facts = facts.filter((f) => f !== column);
    if (as === 'the text') text = column;
    else if (as === 'names it') id = column;
    else if (as === 'a fact') facts = [...facts, column];
  }
</script>

<section class="card mb-4" aria-label="columns of the table">
  <h2>What is what?</h2>
  <p class="soft mb-2">Each row becomes a text. These are the first ones.</p>
  <div class="wide">
    <table class="dense">
      <thead>
        <tr
          >{#each seen.columns as column (column)}<th
              >{column}<select
                class="field"
                aria-label="what {column} is"
                value={meaning(column)}
                onchange={(e) => mean(column, e.currentTarget.value)}
                >{#each ['the text', 'names it', 'a fact', 'left out'] as word (word)}<option>{word}</option>{/each}</select
              ></th
            >{/each}</tr
        >
      </thead>
      <tbody
        >{#each seen.rows as row, i (i)}<tr
            >{#each seen.columns as column (column)}<td class:main={column === text} class:off={meaning(column) === 'left out'}
                >{row[column] ?? ''}</td
              >{/each}</tr
          >{/each}</tbody
      >
    </table>
  </div>
  <div class="row">
    <button class="act main" disabled={text === ''} onclick={() => taken({ text, id: id || null, facts })}>Take them in</button>
    <button class="act" onclick={left}>Not now</button>
    {#if text === ''}<span class="soft">say which column is the text</span>{/if}
  </div>
</section>

<style>
  .wide {
    overflow-x: auto;
    margin-bottom: 10px;
  }
  th {
    vertical-align: top;
  }
  th select {
    display: block;
    width: auto;
    margin-top: 3px;
    padding: 1px 4px;
    font-weight: 400;
  }
  td {
    max-width: 340px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  td.main {
    font-weight: 600;
  }
  td.off {
    opacity: 0.45;
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: center;
  }
</style>
