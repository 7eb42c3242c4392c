<script lang="ts">
  /** The marks on the open item by class, with their answers as short words; and what is said of the item as a whole. */
  import { say } from '$lib/words/codebook';
  import Marker from '$lib/ui/Marker.svelte';
  import type { Bench } from './bench.svelte';
  import type { Opened } from './opened.svelte';
  import Questions from './Questions.svelte';
  import Rows from './Rows.svelte';
  import { isWord } from './suggestions.svelte';
  import { onMount, tick } from 'svelte';

  let { bench, opened, left }: { bench: Bench; opened: Opened; left: () => void } = $props();
  const { words } = $derived(bench);
  const { editor, hand, asking, findings, suggestions } = $derived(opened);
  let filter = $state('');

  /** Rows that are there or not together. */
  const BLOCK = 20;
  /** How far from what is in sight rows are there, in px. */
  const NEAR = 150;
  const told = new WeakMap<Element, (near: boolean) => void>();
  let observer: IntersectionObserver | null = null;
  function watch(block: HTMLElement, tell: (near: boolean) => void): () => void {
    told.set(block, tell);
    observer ??= new IntersectionObserver(
      (seen) => {
        for (const { target, isIntersecting } of seen) told.get(target)?.(isIntersecting);
      },
      { root: block.closest('.ledger'), rootMargin: `${NEAR}px 0px` }
    );
    observer.observe(block);
    return () => observer?.unobserve(block);
  }
  onMount(() => () => observer?.disconnect());
  // taken in hand on the stage, a mark's row comes into sight; it does not run after one that changes its class
  let ledger: HTMLElement | undefined = $state();
  $effect(() => {
    const id = hand.selected;
    if (id === null) return;
    void tick().then(() => ledger?.querySelector(`[data-mark="${id}"]`)?.scrollIntoView({ block: 'nearest' }));
  });
  type Numbered = { id: string; n: number };
  const blocksOf = (rows: Numbered[]): Numbered[][] =>
    Array.from({ length: Math.ceil(rows.length / BLOCK) }, (_, i) => rows.slice(i * BLOCK, (i + 1) * BLOCK));
  const matches = (id: string, name: string, word: string) => {
    const m = editor.marks.get(id);
    const answers = m ? words.questionsOf(m).map((a) => say(a, m.answers[a.key])) : [];
    return [name, m ? (opened.surface.lead?.(m) ?? '') : '', ...answers].join(' ').toLowerCase().includes(word);
  };
  const groups = $derived.by(() => {
    const word = filter.trim().toLowerCase();
    const known = [...words.document.classes, ...words.relations].map((c) => ({ key: c.key, name: c.name }));
    const orphans = editor.marks.classes().filter((key) => !words.classOf(key) && !words.relationOf(key));
    return [...known, ...orphans.map((key) => ({ key, name: `${key} (not in the codebook)` }))].flatMap(({ key, name }) => {
      const ids = editor.marks.of(key);
      if (ids.length === 0) return [];
      // a mark keeps its number when others are filtered out
      const rows = ids.map((id, i) => ({ id, n: i + 1 })).filter(({ id }) => word === '' || matches(id, name, word));
      const blocks = blocksOf(rows);
      return [{ key, name, total: ids.length, blocks }];
    });
  });
  const tags = $derived(words.itemTags);
  const ofItem = $derived(findings.ofItem);
</script>

<aside class="ledger" aria-label="ledger" bind:this={ledger}>
  <div class="top">
    <input class="field" placeholder="filter marks" aria-label="filter marks" bind:value={filter} />
    <span class="num soft">{editor.marks.size}</span>
  </div>
  {#each ofItem.filter((f) => f.attribute === null) as f, i (i)}<p class="fault top">{f.message}</p>{/each}
  {#if asking.about.length > 0 || tags.length > 0}
    <section class="picture" aria-label="the {opened.surface.noun} as a whole">
      <Questions
        {asking}
        list={asking.about}
        answers={asking.answersAbout}
        faults={ofItem}
        editable={opened.editable}
        mine={hand.selected === null}
        before={() => hand.select(null)}
        {left}
      />
      {#if tags.length > 0}
        <div class="tagword soft">tags</div>
        <div class="tags" role="group" aria-label="tags">
          {#each tags as t (t.key)}<button
              aria-pressed={asking.said.tags.includes(t.key)}
              title={t.description}
              disabled={!opened.editable}
              onclick={() => asking.tag(t.key)}>{t.name}</button
            >{/each}
        </div>{/if}
    </section>
  {/if}
  <div role="list" aria-label="marks">
    {#each groups as { key, name, blocks, total } (key)}
      <div class="group" role="presentation">
        <Marker marker={words.marker(key)} color={words.light(key)} /><span>{name}</span><span class="num soft">{total}</span>
      </div>
      {#each blocks as rows, b (b)}
        <Rows {opened} {words} {rows} {total} user={bench.user} {left} {watch} />
      {/each}
    {/each}
  </div>
  {#if suggestions.list.length > 0}
    <section aria-label="suggestions">
      <div class="group">suggested, not labels yet <span class="num soft">{suggestions.list.length}</span></div>
      {#if suggestions.list.some((s) => s.confidence !== null)}
        <div class="sure">
          <input
            type="range"
            min="0"
            max="1"
            step="0.05"
            aria-label="from which confidence on all are confirmed together"
            bind:value={suggestions.threshold}
          />
          <span class="num">{suggestions.threshold.toFixed(2)}</span>
          <button
            class="act"
            disabled={!opened.editable || suggestions.above.length === 0}
            onclick={() => opened.say(`${suggestions.confirmAbove()} confirmed`)}>Confirm {suggestions.above.length}</button
          >
        </div>
      {/if}
      {#if opened.packet.sure_from !== null && opened.packet.sure_from !== undefined}<p class="soft rule">
          From <span class="num">{opened.packet.sure_from.toFixed(2)}</span> on they count as looked at once all of the {opened.surface
            .noun} was seen close up; the others are left behind unless they are decided.
        </p>{/if}
      <div role="list" aria-label="suggestions">
        {#each suggestions.list as s (s.id)}<div role="listitem" class="suggested" class:now={suggestions.now?.id === s.id}>
            <button class="which" aria-pressed={suggestions.now?.id === s.id} onclick={() => suggestions.look(s.id)}>
              {#if isWord(s)}<span class="saying">{suggestions.name(s)}</span>
              {:else}<span class="hollow"><Marker marker={words.marker(s.mark.class)} color={words.light(s.mark.class)} /></span>
                <span>{suggestions.name(s)}</span>{/if}
              <span class="num soft">{s.confidence === null ? '' : s.confidence.toFixed(2)}</span>
            </button>
            <button
              class="said"
              disabled={!opened.editable}
              aria-label="{suggestions.name(s)} is right"
              onclick={() => suggestions.confirm(s)}>right</button
            ><button
              class="said"
              disabled={!opened.editable}
              aria-label="{suggestions.name(s)} is wrong"
              onclick={() => suggestions.drop(s)}>wrong</button
            >
          </div>{/each}
      </div>
    </section>
  {/if}
  {#if editor.marks.size === 0}<p class="soft empty">
      {opened.mode === 'label' && bench.chosen.active !== ''
        ? `Nothing is marked yet. Draw the first: ${words.nameOf(bench.chosen.active)}.`
        : 'Nothing is marked yet.'}
    </p>{/if}
</aside>

<style>
  .ledger {
    background: var(--panel);
    border-left: 1px solid var(--line);
    overflow-y: auto;
    padding: 8px 0;
    font-size: 13px;
    height: 100%;
    contain: strict;
  }
  .top {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 0 10px 6px;
  }
  .top .field {
    padding: 3px 8px;
    font-size: 13px;
  }
  .group {
    display: flex;
    gap: 7px;
    align-items: center;
    padding: 6px 10px 3px;
    font-weight: 650;
    border-top: 1px solid var(--line);
  }
  .group .num {
    margin-left: auto;
    font-weight: 400;
  }
  .sure {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 2px 10px 4px;
  }
  .sure input {
    flex: 1;
    min-width: 0;
    accent-color: var(--primary);
  }
  .suggested {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 1px 10px;
    border-left: 2px dashed transparent;
  }
  .suggested.now {
    border-left-color: var(--accent);
    background: color-mix(in srgb, var(--accent) 14%, transparent);
  }
  .which {
    display: flex;
    gap: 7px;
    align-items: center;
    flex: 1;
    text-align: left;
    cursor: pointer;
  }
  .which .num {
    margin-left: auto;
  }
  .hollow {
    opacity: 0.6;
  }
  .saying {
    border: 1px dashed var(--edge);
    border-radius: 4px;
    padding: 0 6px;
  }
  .rule {
    padding: 0 10px 4px;
    font-size: 12px;
  }
  .said {
    color: var(--primary);
    cursor: pointer;
  }
  .picture {
    padding: 4px 10px 4px 17px;
    border-top: 1px solid var(--line);
  }
  .tagword {
    font-size: 12px;
    padding-top: 2px;
  }
  .tags {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 6px;
  }
  .tags button {
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 1px 7px;
    cursor: pointer;
  }
  .tags [aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 30%, transparent);
  }
  .fault {
    color: var(--accent-text);
  }
  .empty {
    padding: 14px 12px;
  }
</style>
