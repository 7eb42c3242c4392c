<script lang="ts">
  /** One mark in the ledger: told of changes of itself alone. The one in hand opens with its questions. */
  import { say } from '$lib/words/codebook';
  import type { Words } from '$lib/words/words.svelte';
  import type { Opened } from './opened.svelte';
  import Questions from './Questions.svelte';

  let {
    opened,
    words,
    id,
    n,
    total,
    user,
    left
  }: { opened: Opened; words: Words; id: string; n: number; total: number; user: number; left: () => void } = $props();
  const { hand, editor, surface, findings, asking, acts } = $derived(opened);
  const m = $derived(editor.marks.get(id));
  const isOpen = $derived(hand.has(id) && hand.selected === id);
  const questions = $derived(m ? words.questionsOf(m) : []);
  const answers = $derived(
    m
      ? questions
          .map((a) => say(a, m.answers[a.key]))
          .filter(Boolean)
          .join(' · ')
      : ''
  );
  const faults = $derived(findings.of(id));
  const author = $derived.by(() => {
    if (!m) return '';
    if (m.source === 'import') return 'import';
    return m.author === user ? '' : (opened.packet.people.find((p) => p.id === m.author)?.name.split(' ')[0] ?? '');
  });
  const flagWords = { cut_off: 'cut off', hidden: 'hidden', hard: 'hard', crowd: 'crowd' } as const;

  function press(e: MouseEvent) {
    if (e.shiftKey) hand.also(id);
    else hand.select(hand.selected === id ? null : id);
    if (hand.selected !== null && opened.editable) surface.picking();
  }
  const Detail = $derived(surface.Detail);
  const whole = $derived(m?.part_of ? editor.marks.get(m.part_of) : undefined);
</script>

{#if m}
  <div
    role="listitem"
    aria-posinset={n}
    aria-setsize={total}
    data-mark={id}
    class="row"
    class:here={hand.has(id)}
    class:lit={hand.isOver(id)}
    aria-label="{words.nameOf(m.class)} {n} {surface.words(m)}{answers ? `, ${answers}` : ''}"
  >
    <button class="line" aria-expanded={isOpen} onmouseenter={() => hand.hover(id)} onmouseleave={() => hand.hover(null)} onclick={press}>
      <span class="num n">{n}</span>
      <span class="words"
        >{#if surface.lead}<b>{surface.lead(m)}</b>
        {/if}{answers || (surface.lead ? '' : questions.length > 0 ? '—' : surface.short(m))}</span
      >
      <span class="who">{author}</span>
      {#if faults.length > 0}<span class="bang" title={faults.map((f) => f.message).join('; ')}>!</span>{/if}
    </button>
    {#if isOpen}
      <div class="open">
        {#if Detail}<Detail {surface} mark={m} />{/if}
        {#if m.flags.length > 0 || m.part_of || hand.locked.has(m.id) || m.stack !== null}<div class="soft size">
            {[
              ...m.flags.map((f) => flagWords[f]),
              ...(m.part_of ? [`part of ${whole ? acts.label(whole) : 'something gone'}`] : []),
              ...(hand.locked.has(m.id) ? ['locked'] : []),
              ...(m.stack !== null ? [`place ${m.stack} in the stack`] : [])
            ].join(' · ')}
          </div>{/if}
        {#each faults.filter((f) => f.attribute === null) as f, i (i)}<p class="fault">{f.message}</p>{/each}
        <Questions {asking} list={questions} answers={m.answers} {faults} editable={opened.editable} mine={true} {left} />
      </div>
    {/if}
  </div>
{/if}

<style>
  .line {
    display: flex;
    gap: 8px;
    width: 100%;
    text-align: left;
    padding: 2px 10px;
    cursor: pointer;
    align-items: baseline;
  }
  .row.lit {
    background: color-mix(in srgb, var(--primary) 12%, transparent);
  }
  .row.here {
    background: color-mix(in srgb, var(--primary) 18%, transparent);
  }
  .n {
    min-width: 20px;
    color: var(--soft);
  }
  .words {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .who {
    color: var(--soft);
    font-size: 12px;
  }
  .bang {
    color: var(--accent-text);
    font-weight: 700;
  }
  .open {
    padding: 0 10px 8px 38px;
  }
  .size {
    font-size: 12px;
    margin-bottom: 3px;
  }
  .fault {
    color: var(--accent-text);
    padding: 1px 10px 1px 0;
  }
</style>
