<script lang="ts">
  /** A sweep: one question over many objects or items, close up, a key each. First what is swept over, as a sentence. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask } from '$lib/api/client';
  import { answersOf, digitPlaces, type Cap, type Row } from '$lib/bench/caps';
  import Deck from '$lib/bench/Deck.svelte';
  import { placeOf } from '$lib/bench/keys';
  import { fromServer } from '$lib/bench/types';
  import Close from '$lib/objects/Close.svelte';
  import Delivery from '$lib/objects/Delivery.svelte';
  import { ObjectEdits } from '$lib/objects/edits.svelte';
  import { Pictures } from '$lib/objects/pictures.svelte';
  import { Sweep, type Plan, type Subject } from '$lib/objects/sweep.svelte';
  import { noValues, say } from '$lib/state/codebook';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import { ChevronLeft, ChevronRight, Play, SquareArrowOutUpRight, Trash2 } from '@lucide/svelte';
  import { onMount, untrack } from 'svelte';

  const project = useProject();
  const edits = new ObjectEdits(project.id, session.user!.id);
  const pictures = new Pictures();
  let ready = $state(false);
  let error = $state('');
  let sets = $state<string[]>([]);
  let count = $state<number | null>(null);
  let sweep = $state.raw<Sweep | null>(null);
  let margin = $state(session.user?.settings.margin ?? 0.35);
  let outline = $state(true);
  let width = $state(800);
  let height = $state(500);
  let now = $state(Date.now());
  let began = 0;
  /** what the sweep began behind */
  let from: string | null = null;

  const params = $derived(page.url.searchParams);
  const document_ = $derived(edits.document);
  const groups = $derived([
    ...new Set((document_.tags ?? []).flatMap((t) => (t.group && (t.scope ?? 'item') === 'item' ? [t.group] : [])))
  ]);
  const objectQuestions = $derived(
    (document_.attributes ?? []).filter((a) => a.scope === 'object' && document_.classes.some((c) => c.attributes?.includes(a.key)))
  );
  const itemQuestions = $derived((document_.attributes ?? []).filter((a) => a.scope === 'item'));
  /** what is asked: `q:` a question, `every`, `look`, `g:` a group of tags */
  const what = $derived(
    params.get('ask') ?? (objectQuestions[0] ? `q:${objectQuestions[0].key}` : itemQuestions[0] ? `q:${itemQuestions[0].key}` : 'look')
  );
  const question = $derived(what.startsWith('q:') ? (document_.attributes?.find((a) => a.key === what.slice(2)) ?? null) : null);
  const overItems = $derived(what.startsWith('g:') || question?.scope === 'item');
  const asking = $derived(
    question
      ? document_.classes.filter((c) => c.attributes?.includes(question.key))
      : document_.classes.filter((c) => edits.kindsOf(c.key).length > 0)
  );
  const which = $derived(what === 'every' ? 'open' : what === 'look' ? '' : (params.get('answer') ?? 'open'));
  const plan = $derived<Plan>({
    over: overItems ? 'items' : 'objects',
    ...(question ? { question: question.key } : {}),
    ...(what === 'every' ? { every: true } : {}),
    ...(what.startsWith('g:') ? { group: what.slice(2) } : {}),
    ...(!overItems && params.get('class') ? { class: params.get('class')! } : {}),
    ...(which !== '' ? { answer: which } : {}),
    ...(params.get('set') !== null ? { set: params.get('set')! } : {})
  });

  onMount(() => {
    edits.start().then(
      () => {
        ready = true;
        if (params.get('go') !== null) void begin(params.get('after'));
      },
      (e) => (error = (e as Error).message)
    );
    if (project.may('items.see'))
      ask(api.GET('/projects/{project}/sets', { params: { path: { project: project.id } } })).then(
        (found) => (sets = found.data.map((s) => s.path)),
        (e) => (error = (e as Error).message)
      );
    const clock = setInterval(() => (now = Date.now()), 1000);
    return () => {
      clearInterval(clock);
      edits.close();
    };
  });
  $effect(() => {
    if (session.signIns > 0) edits.outbox.wake();
  });
  const asked = $derived(JSON.stringify(plan));
  $effect(() => {
    void asked;
    if (!ready || sweep) return;
    untrack(() => void number());
  });

  /** How many the sentence means. */
  async function number() {
    const of = asked;
    count = null;
    const { over, class: key, question: q, group, answer, set } = plan;
    const path = { project: project.id };
    const common = { ...(q ? { question: q } : {}), ...(answer ? { answer } : {}), ...(set !== undefined ? { set } : {}), limit: 1 };
    try {
      const found =
        over === 'objects'
          ? await ask(api.GET('/projects/{project}/objects', { params: { path, query: { ...common, ...(key ? { class: key } : {}) } } }))
          : await ask(api.GET('/projects/{project}/said', { params: { path, query: { ...common, ...(group ? { group } : {}) } } }));
      if (of === asked) [count, error] = [found.total, ''];
    } catch (e) {
      if (of === asked) error = (e as Error).message;
    }
  }
  function narrow(change: Record<string, string | null>) {
    const next = new URLSearchParams(page.url.searchParams);
    next.delete('go');
    next.delete('after');
    for (const [name, value] of Object.entries(change)) {
      if (value === null || (value === '' && name === 'class')) next.delete(name);
      else next.set(name, value);
    }
    void goto(`?${next}`, { keepFocus: true, noScroll: true, replaceState: true });
  }

  async function begin(after: string | null) {
    const started = new Sweep(edits, plan);
    began = Date.now();
    await started.start(after);
    from = after;
    sweep = started;
  }
  /** The address says where the sweep is, so that a reload or the bench comes back to it. */
  const spot = $derived.by(() => {
    if (!sweep) return '';
    const next = new URLSearchParams(page.url.searchParams);
    next.set('go', '1');
    const before = sweep.at > 0 ? sweep.subjects[sweep.at - 1]?.id : from;
    if (before) next.set('after', before);
    else next.delete('after');
    return `/p/${project.id}/sweep?${next}`;
  });
  let kept: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    const here = spot;
    if (here === '') return;
    clearTimeout(kept);
    // not with every key: the browser limits how often an address may change
    kept = setTimeout(() => replaceState(here, {}), sweep?.at === 0 ? 0 : 400);
    return () => clearTimeout(kept);
  });
  function leave() {
    sweep = null;
    narrow({});
  }

  const subject = $derived(sweep?.subject);
  const mark = $derived(sweep?.mark ?? null);
  const open = $derived(sweep?.question ?? null);
  const coming = $derived(sweep ? sweep.subjects.slice(sweep.at + 1, sweep.at + 12) : []);
  const itemOf = (s: Subject) => (s.object ?? s.item)!.item;
  const markOf = (s: Subject) => (s.object ? (edits.now(s.object) ?? fromServer(s.object.mark)) : null);
  $effect(() => {
    if (!sweep) return;
    const wanted = sweep.subjects.slice(Math.max(0, sweep.at - 2), sweep.at + 14).map(itemOf);
    untrack(() => pictures.want(wanted));
  });

  const digits = $derived<Row>({
    name: overItems ? '' : 'classes',
    caps:
      sweep && !overItems
        ? digitPlaces(document_.classes.filter((c) => mark && edits.kindsOf(c.key).includes(mark.kind))).map(({ digit, key }) => ({
            code: `Digit${digit}`,
            word: edits.nameOf(key),
            marker: { marker: edits.marker(key), color: edits.light(key) },
            lit: mark?.class === key,
            press: () => sweep!.become(key)
          }))
        : []
  });
  const rows = $derived.by<Row[]>(() => {
    if (!sweep || !subject) return [];
    const back: Cap = {
      code: 'KeyV',
      word: 'back',
      icon: ChevronLeft,
      off: sweep.at > 0 || sweep.done.length > 0 ? undefined : 'this is the first',
      press: () => sweep!.back()
    };
    const skip: Cap = { code: 'KeyB', word: 'skip', icon: ChevronRight, again: true, press: () => sweep!.skip() };
    let shown: Row[];
    if (open)
      shown = answersOf(
        open,
        sweep.answers[open.key],
        (answer, stay) => sweep!.answer(answer, stay),
        () => document.getElementById('written')?.focus()
      );
    else if (plan.group)
      shown = [
        {
          name: plan.group,
          caps: (document_.tags ?? [])
            .filter((t) => t.group === plan.group)
            .slice(0, 10)
            .map((t, i) => ({
              code: ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT', 'KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG'][i]!,
              word: t.name,
              lit: sweep!.tags.includes(t.key),
              press: () => sweep!.tag(t.key)
            }))
        },
        { name: '', caps: [] },
        { name: '', caps: [] }
      ];
    else
      shown = [
        {
          name: '',
          caps: [
            {
              code: 'KeyE',
              word: 'on the bench',
              icon: SquareArrowOutUpRight,
              off: bench ? undefined : 'nobody has been given this item',
              press: () => void goto(bench!)
            }
          ]
        },
        { name: '', caps: [{ code: 'KeyD', word: 'remove', icon: Trash2, press: () => sweep!.remove() }] },
        { name: '', caps: [] }
      ];
    // the last row is free for going on and back, where it is not full of answers
    const last = shown[2]!;
    const free = (cap: Cap) => !last.caps.some((c) => c.code === cap.code);
    return [shown[0]!, shown[1]!, { ...last, caps: [...last.caps, ...[back, skip].filter(free)] }];
  });
  const bench = $derived(
    subject?.object?.turn ? `/p/${project.id}/bench/${subject.object.turn}?${new URLSearchParams({ mark: subject.id, back: spot })}` : null
  );

  function press(e: KeyboardEvent) {
    if (!sweep || session.ended) return;
    const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement || e.target instanceof HTMLSelectElement;
    if (e.code === 'Escape') {
      if (typing) (e.target as HTMLElement).blur();
      else if (edits.message !== '') edits.message = '';
      else leave();
      return e.preventDefault();
    }
    if (typing) return;
    if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ' && !e.shiftKey) {
      sweep.back();
      return e.preventDefault();
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.code === 'ArrowRight') sweep.skip();
    else if (e.code === 'ArrowLeft') sweep.back();
    else if (e.key === '+') zoom(-1);
    else if (e.key === '-') zoom(1);
    else if (e.code === 'Enter' && !(e.target instanceof HTMLElement && e.target.closest('button, a'))) {
      // several choices, or none of them yet: on it goes
      if (open && sweep.answers[open.key] !== undefined) sweep.next();
      else sweep.skip();
    } else {
      const code = placeOf(e.code, session.user?.settings.keys ?? {});
      const cap: Cap | undefined = [...digits.caps, ...rows.flatMap((r) => r.caps)].find((c) => c.code === code);
      if (!cap || (e.repeat && !cap.again)) return;
      if (cap.off) edits.message = `${cap.word}: ${cap.off}`;
      else cap.press();
    }
    e.preventDefault();
  }
  let keeping: ReturnType<typeof setTimeout> | undefined;
  /** More or less round it; kept for this person. */
  function zoom(by: number) {
    margin = Math.min(4, Math.max(0, Math.round((margin + by * (margin >= 1 ? 0.2 : 0.1)) * 100) / 100));
    clearTimeout(keeping);
    keeping = setTimeout(() => session.set({ margin }).catch((e: Error) => (edits.message = e.message)), 800);
  }

  const name = $derived(
    subject ? (subject.object ? `${edits.nameOf(mark?.class ?? '')} on ${subject.object.item.name}` : itemOf(subject).name) : ''
  );
  const waiting = $derived(edits.outbox.waiting);
  const minutes = $derived(Math.max(0, now - began) / 60_000);
</script>

<svelte:head><title>Sweep · Skeno</title></svelte:head>
<svelte:window onkeydown={press} />

<div class="sweep">
  <header>
    <nav class="crumbs" aria-label="where you are">
      <a href="/">Skeno</a> › <a href="/p/{project.id}">{project.project?.name ?? ''}</a> › <strong>sweep</strong>
    </nav>
    {#if sweep}
      <strong class="asks">{open?.name ?? plan.group ?? 'look'}</strong>
      <span class="soft" role="status" aria-label="progress"
        ><span class="num">{Math.min(sweep.at, sweep.total ?? 0)}</span> of
        <span class="num">{sweep.total ?? 0}</span>{#if sweep.skipped.size > 0},
          <span class="num">{sweep.skipped.size}</span> skipped{/if}</span
      >
      <span class="bar" aria-hidden="true"><span style:width="{(100 * sweep.at) / Math.max(1, sweep.total ?? 1)}%"></span></span>
      <span class="soft" title="over the last minute"><span class="num">{sweep.pace(now)}</span> a minute</span>
      <span class="push"></span>
      <label class="soft"><input type="checkbox" bind:checked={outline} disabled={overItems} /> outline</label>
      {#if bench}<a class="act" href={bench}>on the bench</a>{/if}
      <span class="saved" role="status" aria-label="saved state"
        >{waiting === 0 ? '● saved' : edits.outbox.status === 'saving' ? '◐ saving' : `○ ${edits.outbox.status}, ${waiting} waiting`}</span
      >
      <button class="act" onclick={leave}>Stop</button>
    {/if}
  </header>
  {#if error || edits.message || sweep?.error || edits.outbox.held.length > 0 || edits.outbox.unkept !== ''}
    <div class="say">
      <Delivery {edits} />
      <span role="alert">{error || edits.message || sweep?.error}</span>
      {#if sweep?.error}<button class="act" onclick={() => sweep?.retry()}>try again</button>{/if}
    </div>
  {/if}
  {#if !sweep}
    <main>
      {#if ready}
        <h1>Sweep</h1>
        <p class="sentence">
          Ask
          <select
            class="field"
            aria-label="what is asked"
            value={what}
            onchange={(e) => narrow({ ask: e.currentTarget.value, class: null, answer: null })}
          >
            {#each objectQuestions as q (q.key)}<option value="q:{q.key}">{q.name}</option>{/each}
            {#if objectQuestions.length > 1}<option value="every">every open question</option>{/if}
            {#each itemQuestions as q (q.key)}<option value="q:{q.key}">{q.name} (the picture)</option>{/each}
            {#each groups as g (g)}<option value="g:{g}">tags: {g}</option>{/each}
            <option value="look">nothing, only look</option>
          </select>
          of
          {#if overItems}<span>pictures</span>
          {:else}
            <select
              class="field"
              aria-label="of which class"
              value={params.get('class') ?? ''}
              onchange={(e) => narrow({ class: e.currentTarget.value })}
            >
              <option value="">{asking.length === 1 ? asking[0]!.name : 'all classes'}</option>
              {#if asking.length > 1}{#each asking as c (c.key)}<option value={c.key}>{c.name}</option>{/each}{/if}
            </select>
          {/if}
          {#if question || plan.group}
            <select class="field" aria-label="which of them" value={which} onchange={(e) => narrow({ answer: e.currentTarget.value })}>
              <option value="open">not answered</option>
              <option value="">answered or not</option>
              {#if question}
                {#each question.options ?? [] as o (o.key)}<option value={o.key}>now “{o.name}”</option>{/each}
                {#if question.type === 'yesno'}<option value="yes">now “yes”</option><option value="no">now “no”</option>{/if}
                {#each question.no_value ?? [] as n (n)}<option value="no:{n}">now “{noValues[n]}”</option>{/each}
              {:else}{#each (document_.tags ?? []).filter((t) => t.group === plan.group) as t (t.key)}<option value={t.key}
                    >now “{t.name}”</option
                  >{/each}{/if}
            </select>
          {/if}
          {#if sets.length > 1}
            in
            <select
              class="field"
              aria-label="in which set"
              value={params.get('set') ?? '*'}
              onchange={(e) => narrow({ set: e.currentTarget.value === '*' ? null : e.currentTarget.value })}
            >
              <option value="*">all sets</option>
              {#each sets as s (s)}<option value={s}>{s || '(top)'}</option>{/each}
            </select>
          {/if}
        </p>
        <p class="soft" role="status" aria-label="how many">
          {#if count !== null}<strong class="num">{count}</strong>
            {overItems ? (count === 1 ? 'picture' : 'pictures') : count === 1 ? 'object' : 'objects'}, a key each{/if}
        </p>
        <button class="act main big" disabled={!count} onclick={() => begin(null)}><Play size={17} strokeWidth={1.75} />Begin</button>
        {#if !project.may('items.see')}<p class="soft small">Objects on what you have open, and on what waits for you.</p>{/if}
      {/if}
    </main>
  {:else if sweep.ended || !subject}
    <main>
      <h1>{sweep.total === 0 ? 'Nothing to sweep' : 'Done'}</h1>
      <p class="sentence">
        <span class="num">{sweep.done.length}</span>
        {sweep.done.length === 1 ? 'answer' : 'answers'} in
        <span class="num">{minutes < 1 ? `${Math.round(minutes * 60)} s` : `${Math.round(minutes)} min`}</span>{#if sweep.skipped.size > 0}, <span
            class="num">{sweep.skipped.size}</span
          > skipped and left open{/if}.
      </p>
      <div class="ends">
        {#if sweep.skipped.size > 0}<button class="act main" onclick={() => begin(null)}>Go through what is open</button>{/if}
        {#if sweep.at > 0}<button class="act" onclick={() => sweep?.back()}>Back to the last</button>{/if}
        <button class="act" onclick={leave}>Another sweep</button>
        <a class="act" href="/">My work</a>
      </div>
    </main>
  {:else}
    <div
      class="stage"
      role="img"
      aria-label={name}
      bind:clientWidth={width}
      bind:clientHeight={height}
      onwheel={(e) => {
        e.preventDefault();
        zoom(Math.sign(e.deltaY));
      }}
    >
      <Close item={itemOf(subject)} {mark} question={open} {edits} {pictures} {margin} {width} {height} {outline} />
      <div class="what">
        {name}{#if open && sweep.answers[open.key]}<span class="soft"> · now {say(open, sweep.answers[open.key])}</span>{/if}
      </div>
      {#if open && ['text', 'date', 'time', 'datetime'].includes(open.type)}
        <form
          class="write"
          onsubmit={(e) => {
            e.preventDefault();
            const field = document.getElementById('written') as HTMLInputElement;
            const value = field.value.trim();
            field.value = '';
            field.blur();
            if (value !== '') sweep?.answer({ value });
          }}
        >
          <input
            id="written"
            class="field"
            aria-label={open.name}
            type={open.type === 'datetime' ? 'datetime-local' : open.type}
            maxlength="4000"
          />
        </form>
      {/if}
    </div>
    <div class="strip" aria-label="next" role="list">
      {#each coming as s (s.id)}
        <div class="next" role="listitem">
          <Close item={itemOf(s)} mark={markOf(s)} question={open} {edits} {pictures} {margin} width={104} height={78} outline={false} />
        </div>
      {/each}
    </div>
    <Deck
      {digits}
      {rows}
      named={true}
      folded={session.user?.settings.deck_folded ?? false}
      keys={session.user?.settings.keys ?? {}}
      fold={(f) => session.setDeckFolded(f)}
    />
  {/if}
</div>

<style>
  .sweep {
    display: grid;
    grid-template-rows: 40px;
    grid-auto-rows: auto;
    height: 100vh;
  }
  .sweep:has(.stage) {
    grid-template-rows: 40px minmax(0, 1fr) auto auto;
  }
  .sweep:has(.stage):has(.say) {
    grid-template-rows: 40px auto minmax(0, 1fr) auto auto;
  }
  header {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 0 12px;
    background: var(--panel);
    border-bottom: 1px solid var(--line);
    font-size: 13.5px;
    white-space: nowrap;
  }
  .crumbs {
    color: var(--soft);
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
  .asks {
    font-size: 15px;
    color: var(--accent-text);
  }
  .bar {
    width: 150px;
    height: 6px;
    border-radius: 3px;
    background: var(--line);
    overflow: hidden;
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--primary);
  }
  .push {
    flex: 1;
  }
  .saved {
    min-width: 64px;
    color: var(--soft);
  }
  header .act {
    padding: 3px 11px;
  }
  .say {
    padding: 7px 14px;
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
  }
  main {
    max-width: 900px;
    width: 100%;
    margin: 12vh auto 0;
    padding: 0 24px;
    display: grid;
    gap: 14px;
    justify-items: start;
    align-content: start;
  }
  .sentence {
    font-size: 18px;
    line-height: 2.4;
  }
  .sentence .field {
    width: auto;
    display: inline-block;
    font-weight: 600;
    font-size: 17px;
    padding: 4px 32px 4px 10px;
  }
  .big {
    font-size: 17px;
    padding: 10px 26px;
  }
  .small {
    font-size: 13px;
  }
  .ends {
    display: flex;
    gap: 8px;
  }
  .stage {
    position: relative;
    background: #171b1a;
    overflow: hidden;
    min-height: 0;
  }
  .stage :global(canvas) {
    position: absolute;
    inset: 0;
  }
  .what {
    position: absolute;
    left: 12px;
    bottom: 8px;
    background: rgba(23, 27, 26, 0.82);
    color: #e9e4d8;
    border-radius: 3px;
    padding: 1px 8px;
    font-size: 12.5px;
  }
  .what .soft {
    color: #c9c8c0;
  }
  .write {
    position: absolute;
    left: 50%;
    bottom: 14px;
    transform: translateX(-50%);
    width: min(460px, 80%);
  }
  .strip {
    display: flex;
    gap: 6px;
    padding: 5px 12px;
    background: var(--sunk);
    border-top: 1px solid var(--line);
    height: 89px;
    overflow: hidden;
  }
  .next {
    border-radius: 3px;
    overflow: hidden;
    opacity: 0.85;
    flex: none;
  }
</style>
