<script lang="ts">
  /** The marks on the open item by class, with their answers as short words; the one in hand opens with its questions. */
  import { noValues, say, type Answer, type Attribute } from '$lib/state/codebook';
  import Marker from '$lib/ui/Marker.svelte';
  import type { Bench } from './bench.svelte';
  import { bounds, describe, pixels, shapeOf } from './shapes';
  import { area } from './raster';
  import type { Mark } from './types';

  let { bench }: { bench: Bench } = $props();
  let filter = $state('');

  const groups = $derived.by(() => {
    const word = filter.trim().toLowerCase();
    return bench.document.classes
      .map((c) => ({ c, marks: bench.marks.filter((m) => m.class === c.key) }))
      .filter((g) => g.marks.length > 0)
      .map((g) => ({
        ...g,
        total: g.marks.length,
        marks: g.marks
          .map((m, i) => ({ m, n: i + 1 }))
          .filter(({ m }) => word === '' || `${g.c.name} ${answersOf(m)}`.toLowerCase().includes(word))
      }));
  });
  const orphans = $derived(bench.marks.filter((m) => !bench.document.classes.some((c) => c.key === m.class)));
  const answersOf = (m: Mark) =>
    bench
      .questionsOf(m)
      .map((a) => say(a, m.answers[a.key]))
      .filter(Boolean)
      .join(' · ');
  const faults = (m: Mark) => bench.findings.filter((f) => f.mark === m.id);
  const authorOf = (m: Mark) =>
    m.source === 'import'
      ? 'import'
      : m.author === bench.user
        ? ''
        : (bench.packet.people.find((p) => p.id === m.author)?.name.split(' ')[0] ?? '');
  const where = (m: Mark) => describe(shapeOf(m));
  /** the shape in a word or two, where no answer says more */
  const short = (m: Mark) => {
    const b = bounds(shapeOf(m));
    return m.kind === 'polyline' || m.kind === 'points'
      ? `${m.geometry.points.length / 2} points`
      : m.kind === 'skeleton'
        ? `${Object.keys(m.geometry.nodes).length} nodes`
        : `${Math.round(b.width)} × ${Math.round(b.height)}`;
  };
  const flagWords = { cut_off: 'cut off', hidden: 'hidden', hard: 'hard', crowd: 'crowd' } as const;
  const tags = $derived(bench.document.tags?.filter((t) => (t.scope ?? 'item') === 'item') ?? []);
  const inHand = $derived(new Set([bench.selected, ...bench.others]));
  const wholeOf = (m: Mark) => bench.marks.find((w) => w.id === m.part_of);
  const nodesOf = (m: Mark) => bench.skeletonOf(m.class)?.nodes ?? [];
  const fixed = (n: number) => n.toFixed(n % 1 ? 1 : 0);

  function open(m: Mark, e: MouseEvent) {
    if (e.shiftKey) bench.also(m.id);
    else bench.select(bench.selected === m.id ? null : m.id);
    if (bench.selected && bench.editable) bench.tool = 'pick';
  }
  /** Rows that are shown or left out together. */
  const BLOCK = 50;
  const blocksOf = <T,>(rows: T[]): T[][] =>
    Array.from({ length: Math.ceil(rows.length / BLOCK) }, (_, i) => rows.slice(i * BLOCK, (i + 1) * BLOCK));
  const is = (answer: Answer | undefined, value: unknown) =>
    answer !== undefined &&
    'value' in answer &&
    (Array.isArray(answer.value) ? answer.value.includes(value as string) : answer.value === value);
</script>

{#snippet questions(list: Attribute[], answers: Record<string, Answer>, mark: string | null)}
  {#each list as a (a.key)}
    {@const answer = answers[a.key]}
    <div class="q" class:asked={bench.question === a.key && bench.selected === mark} class:missing={a.required && !answer}>
      <button
        class="ask"
        disabled={!bench.editable}
        onclick={() => {
          if (mark === null) bench.select(null);
          bench.question = bench.question === a.key ? null : a.key;
        }}
      >
        <span>{a.name}{a.required ? ' *' : ''}</span>
        <span class="said">{answer ? say(a, answer) : a.default !== undefined ? `(${String(a.default)})` : ''}</span>
      </button>
      {#if bench.question === a.key && bench.selected === mark && bench.editable}
        <div class="options" role="group" aria-label={a.name}>
          {#each a.options ?? [] as o (o.key)}
            <button
              aria-pressed={is(answer, o.key)}
              title={o.description}
              onclick={() => {
                if (a.type === 'one') bench.answer(a, { value: o.key });
                else {
                  const now = answer && 'value' in answer && Array.isArray(answer.value) ? answer.value : [];
                  const next = now.includes(o.key) ? now.filter((k) => k !== o.key) : [...now, o.key];
                  bench.answer(a, next.length ? { value: next } : null, true);
                }
              }}>{o.name}</button
            >
          {/each}
          {#if a.type === 'yesno'}{#each [true, false] as v (v)}<button
                aria-pressed={is(answer, v)}
                onclick={() => bench.answer(a, { value: v })}>{v ? 'yes' : 'no'}</button
              >{/each}{/if}
          {#if a.type === 'number'}
            <input
              type="range"
              aria-label="{a.name} by slider"
              min={a.min ?? 0}
              max={a.max ?? 100}
              step={a.step ?? 1}
              value={answer && 'value' in answer ? Number(answer.value) : (a.default ?? a.min ?? 0)}
              onchange={(e) => bench.answer(a, { value: e.currentTarget.valueAsNumber }, true)}
            />
            <input
              class="field num"
              type="number"
              aria-label={a.name}
              min={a.min}
              max={a.max}
              step={a.step ?? 'any'}
              value={answer && 'value' in answer ? Number(answer.value) : ''}
              onchange={(e) =>
                bench.answer(a, Number.isNaN(e.currentTarget.valueAsNumber) ? null : { value: e.currentTarget.valueAsNumber }, true)}
            />{a.unit ?? ''}
          {/if}
          {#if a.type === 'text' || a.type === 'date' || a.type === 'time' || a.type === 'datetime'}
            <input
              class="field wide"
              type={a.type === 'datetime' ? 'datetime-local' : a.type}
              aria-label={a.name}
              maxlength="4000"
              value={answer && 'value' in answer ? String(answer.value) : ''}
              onchange={(e) => bench.answer(a, e.currentTarget.value === '' ? null : { value: e.currentTarget.value }, true)}
            />
          {/if}
          {#each a.no_value ?? [] as v (v)}<button
              class="none"
              aria-pressed={answer !== undefined && 'no_value' in answer && answer.no_value === v}
              onclick={() => bench.answer(a, { no_value: v })}>{noValues[v]}</button
            >{/each}
          {#if answer}<button class="none" onclick={() => bench.answer(a, null, true)}>clear</button>{/if}
        </div>
      {/if}
      {#each bench.findings.filter((f) => f.mark === mark && f.attribute === a.key) as f (f.code)}<p class="fault">
          {f.message}
        </p>{/each}
    </div>
  {/each}
{/snippet}

<aside class="ledger" aria-label="ledger">
  <div class="top">
    <input class="field" placeholder="filter marks" aria-label="filter marks" bind:value={filter} />
    <span class="num soft">{bench.marks.length}</span>
  </div>
  {#each bench.findings.filter((f) => f.mark === null && f.attribute === null) as f (f.message)}<p class="fault top">{f.message}</p>{/each}
  {#if bench.itemQuestions.length > 0 || tags.length > 0}
    <section class="picture" aria-label="the picture as a whole">
      {@render questions(bench.itemQuestions, bench.said.answers, null)}
      {#if tags.length > 0}<div class="options" role="group" aria-label="tags">
          {#each tags as t (t.key)}<button
              aria-pressed={bench.said.tags.includes(t.key)}
              title={t.description}
              disabled={!bench.editable}
              onclick={() => bench.tag(t.key)}>{t.name}</button
            >{/each}
        </div>{/if}
    </section>
  {/if}
  <div role="list" aria-label="marks">
    {#each groups as { c, marks, total } (c.key)}
      <div class="group" role="presentation">
        <Marker marker={bench.looks.get(c.key)?.marker ?? 'circle'} color={bench.light(c.key)} /><span>{c.name}</span><span class="num soft"
          >{total}</span
        >
      </div>
      {#each blocksOf(marks) as block, b (b)}
        <div class="block" role="presentation" style:contain-intrinsic-size="auto {block.length * 23}px">
          {#each block as { m, n } (m.id)}
            <div
              role="listitem"
              class="row"
              class:here={inHand.has(m.id)}
              class:lit={m.id === bench.hovered}
              aria-label="{c.name} {n} {where(m)}{answersOf(m) ? `, ${answersOf(m)}` : ''}"
            >
              <button
                class="line"
                aria-expanded={m.id === bench.selected}
                onmouseenter={() => (bench.hovered = m.id)}
                onmouseleave={() => (bench.hovered = null)}
                onclick={(e) => open(m, e)}
              >
                <span class="num n">{n}</span>
                <span class="words">{answersOf(m) || (bench.questionsOf(m).length > 0 ? '—' : short(m))}</span>
                <span class="who">{authorOf(m)}</span>
                {#if faults(m).length > 0}<span
                    class="bang"
                    title={faults(m)
                      .map((f) => f.message)
                      .join('; ')}>!</span
                  >{/if}
              </button>
              {#if m.id === bench.selected}
                <div class="open">
                  <div class="num soft size">
                    {#if m.kind === 'box'}{fixed(m.geometry.x)}, {fixed(m.geometry.y)} · {fixed(m.geometry.width)} × {fixed(
                        m.geometry.height
                      )} px
                    {:else if m.kind === 'mask'}mask · {area(pixels(m.geometry).edges).toLocaleString('en')} px
                    {:else}{where(m)}{/if}
                  </div>
                  {#if m.flags.length > 0 || m.part_of || bench.locked.has(m.id) || m.stack !== null}<div class="soft size">
                      {[
                        ...m.flags.map((f) => flagWords[f]),
                        ...(m.part_of ? [`part of ${wholeOf(m) ? bench.label(wholeOf(m)!) : 'something gone'}`] : []),
                        ...(bench.locked.has(m.id) ? ['locked'] : []),
                        ...(m.stack !== null ? [`place ${m.stack} in the stack`] : [])
                      ].join(' · ')}
                    </div>{/if}
                  {#if m.kind === 'skeleton'}
                    <div class="nodes" role="group" aria-label="nodes">
                      {#each nodesOf(m) as n (n.key)}
                        {@const state = m.geometry.nodes[n.key]?.state ?? 'absent'}
                        <button
                          data-state={state}
                          class:taken={bench.point === `n:${n.key}`}
                          title="{n.name}: {state}"
                          aria-label="{n.name}, {state}"
                          disabled={!bench.editable}
                          onclick={() => bench.nodeState(n.key)}><i></i>{n.name}</button
                        >
                      {/each}
                    </div>
                  {/if}
                  {#if m.kind === 'points'}
                    <div class="nodes" role="group" aria-label="points">
                      {#each m.geometry.points.filter((_, i) => i % 2 === 0) as x, i (i)}
                        <button
                          class="num"
                          class:taken={bench.point === `v:0:${i}`}
                          aria-label="point {i + 1}"
                          aria-pressed={bench.point === `v:0:${i}`}
                          disabled={!bench.editable}
                          onclick={() => (bench.point = bench.point === `v:0:${i}` ? null : `v:0:${i}`)}
                          >{i + 1}<span class="soft">{fixed(x)}, {fixed(m.geometry.points[2 * i + 1]!)}</span></button
                        >
                      {/each}
                      {#if bench.pointsOf(m.class) !== null && m.geometry.points.length / 2 < bench.pointsOf(m.class)!}<span class="soft"
                          >{bench.pointsOf(m.class)! - m.geometry.points.length / 2} more asked</span
                        >{/if}
                    </div>
                  {/if}
                  {#each faults(m).filter((f) => f.attribute === null) as f (f.message)}<p class="fault">{f.message}</p>{/each}
                  {@render questions(bench.questionsOf(m), m.answers, m.id)}
                </div>
              {/if}
            </div>
          {/each}
        </div>
      {/each}
    {/each}
    {#each orphans as m (m.id)}<div role="listitem" class="row" aria-label="unknown class {m.class} {where(m)}">
        {m.class}: not in the codebook
      </div>{/each}
  </div>
  {#if bench.packet.suggestions.length > 0}
    <div class="group">suggestions, not labels yet <span class="num soft">{bench.packet.suggestions.length}</span></div>
    {#each bench.packet.suggestions as s (s.id)}<div class="row">
        <button class="line" disabled={!bench.editable} onclick={() => bench.confirm(s)}
          >{bench.nameOf(s.class)} <span class="said">confirm</span></button
        >
      </div>{/each}
  {/if}
  {#if bench.marks.length === 0}<p class="soft empty">
      {bench.mode === 'label' ? `Nothing is marked yet. Draw the first: ${bench.nameOf(bench.active)}.` : 'Nothing is marked yet.'}
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
  .line {
    display: flex;
    gap: 8px;
    width: 100%;
    text-align: left;
    padding: 2px 10px;
    cursor: pointer;
    align-items: baseline;
  }
  /* thousands of rows cost nothing while they are scrolled away; by the block, since each is watched on its own */
  .block {
    content-visibility: auto;
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
  .q {
    border-left: 2px solid transparent;
    padding-left: 7px;
    margin-left: -9px;
  }
  .q.asked {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 10%, transparent);
  }
  .q.missing {
    border-color: var(--accent);
  }
  .ask {
    display: flex;
    justify-content: space-between;
    width: 100%;
    gap: 8px;
    padding: 2px 4px 2px 0;
    cursor: pointer;
    text-align: left;
  }
  .said {
    color: var(--primary);
    text-align: right;
  }
  .options {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 6px;
    align-items: center;
  }
  .options button {
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 1px 7px;
    cursor: pointer;
  }
  .options [aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 30%, transparent);
  }
  .options .none {
    border-style: dashed;
  }
  .options input[type='range'] {
    width: 110px;
  }
  .options .field {
    width: 70px;
    padding: 1px 5px;
  }
  .picture {
    padding: 4px 10px 4px 17px;
    border-top: 1px solid var(--line);
  }
  .nodes {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 5px;
  }
  .nodes button {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    font-size: 12px;
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 0 6px;
    cursor: pointer;
  }
  .nodes .taken {
    border-color: var(--primary);
  }
  .nodes i {
    width: 8px;
    height: 8px;
    border-radius: 50%;
    background: var(--primary);
    border: 2px solid var(--primary);
  }
  .nodes [data-state='hidden'] i {
    background: none;
  }
  .nodes [data-state='absent'] i {
    background: none;
    border-style: dotted;
    border-color: var(--soft);
  }
  .nodes [data-state='absent'] {
    color: var(--soft);
    text-decoration: line-through;
  }
  .options .wide {
    width: 100%;
  }
  .fault {
    color: var(--accent-text);
    padding: 1px 10px 1px 0;
  }
  .empty {
    padding: 14px 12px;
  }
</style>
