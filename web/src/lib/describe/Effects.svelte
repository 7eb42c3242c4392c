<script lang="ts">
  /** What a change would do to labels in use, and where words without a place go. */
  import type { Draft } from './draft.svelte';

  let { draft }: { draft: Draft } = $props();
  const asked = $derived(
    Object.values(draft.questions)
      .filter((q) => q.address in draft.mapping || draft.check.orphans.some((o) => o.address === q.address))
      // what still has to be settled first
      .sort((a, b) => Number(a.address in draft.mapping) - Number(b.address in draft.mapping) || a.address.localeCompare(b.address))
  );
  const open = $derived(draft.check.orphans.length);
  const words: Record<string, string> = {
    class: 'class',
    question: 'question',
    answer: 'answer',
    tag: 'tag',
    node: 'node'
  };
  const value = (address: string) =>
    !(address in draft.mapping) ? '' : draft.mapping[address] === null ? '-' : `=${draft.mapping[address]}`;
</script>

{#if asked.length > 0 || draft.check.report.length > 0}
  <section class="effects" class:open={open > 0} aria-label="what becomes of labels">
    <h2>
      {open > 0 ? `${open} ${open === 1 ? 'word' : 'words'} in use would have no place` : 'What becomes of labels'}
    </h2>
    {#if open > 0}<p class="soft">Say where they go, or bring them back. Nothing is saved before that.</p>{/if}
    {#if asked.length > 0}
      <table>
        <thead><tr><th>what</th><th>name</th><th class="n">uses</th><th>goes to</th></tr></thead>
        <tbody>
          {#each asked as q (q.address)}
            <tr>
              <td class="soft">{words[q.address.split(':')[0]!]}</td>
              <td>{q.name}</td>
              <td class="n num">{q.count}</td>
              <td>
                <select
                  class="field"
                  aria-label="{q.name} goes to"
                  value={value(q.address)}
                  onchange={(e) => {
                    const to = e.currentTarget.value;
                    draft.settle(q.address, to === '' ? undefined : to === '-' ? null : to.slice(1));
                  }}
                >
                  <option value="">choose…</option>
                  {#each q.choices as c (c.key)}<option value="={c.key}">{c.name}{c.key === q.guess ? ' (likely)' : ''}</option>{/each}
                  <option value="-">take away: {q.count} {q.address.startsWith('class:') ? 'marks are removed' : 'are dropped'}</option>
                </select>
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    {#if draft.check.report.length > 0}
      <ul>
        {#each draft.check.report as line, i (i)}<li class={line.fate}>{line.message}</li>{/each}
      </ul>
    {/if}
    {#if open === 0 && draft.check.rewrites}<p class="soft">
        Saving writes this into the labels, each with its history. Benches that are open go on, in the new words.
      </p>{/if}
  </section>
{/if}

<style>
  .effects {
    border: 1px solid var(--edge);
    border-left: 3px solid var(--primary);
    border-radius: 4px;
    padding: 9px 12px;
    margin-bottom: 12px;
    background: var(--panel);
  }
  .effects.open {
    border-left-color: var(--accent);
  }
  table {
    width: 100%;
    margin-top: 6px;
  }
  th {
    text-align: left;
    font-weight: 500;
    color: var(--soft);
    font-size: 12.5px;
  }
  td,
  th {
    padding: 2px 10px 2px 0;
  }
  .n {
    text-align: right;
  }
  ul {
    margin-top: 6px;
  }
  .removed,
  .doubtful {
    color: var(--accent-text);
  }
</style>
