<script lang="ts">
  /** A sweep: one question over many objects or items, close up, a key each. First what is swept over, as a sentence. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask } from '$lib/api/client';
  import Delivery from '$lib/edits/Delivery.svelte';
  import { BESIDE } from '$lib/edits/outbox.svelte';
  import Saved from '$lib/edits/Saved.svelte';
  import { letters } from '$lib/keys/bindings';
  import { answersOf, digitPlaces, type Cap, type Row } from '$lib/keys/caps';
  import Deck from '$lib/keys/Deck.svelte';
  import { keepFocus, press, type Keys, type Layer } from '$lib/keys/layers';
  import Close from '$lib/objects/Close.svelte';
  import { ObjectEdits } from '$lib/objects/edits.svelte';
  import { answerOptions, classOptions, narrowed, setChoice, type Choice } from '$lib/objects/filters';
  import Filters from '$lib/objects/Filters.svelte';
  import { Pictures } from '$lib/objects/pictures.svelte';
  import { Sweep, type Plan, type Subject } from '$lib/objects/sweep.svelte';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import AnswerEditor from '$lib/words/AnswerEditor.svelte';
  import { say } from '$lib/words/codebook';
  import { fromServer } from '$lib/words/mark';
  import { Check, ChevronLeft, ChevronRight, CircleSlash, Play, SquareArrowOutUpRight, Trash2 } from '@lucide/svelte';
  import { onMount, untrack } from 'svelte';

  const project = useProject();
  const edits = new ObjectEdits(project.id, session.user!.id);
  const { words, outbox, editor } = edits;
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
  let stage: HTMLElement | undefined = $state();
  /** the field was left by Esc: letters are keys again, until it is written in or the next one comes */
  let unwritten = $state(false);

  const params = $derived(page.url.searchParams);
  const document_ = $derived(words.document);
  const groups = $derived([...new Set(words.itemTags.flatMap((t) => (t.group ? [t.group] : [])))]);
  const singles = $derived(words.itemTags.filter((t) => !t.group));
  const objectQuestions = $derived(
    (document_.attributes ?? []).filter((a) => a.scope === 'object' && document_.classes.some((c) => c.attributes?.includes(a.key)))
  );
  const itemQuestions = $derived((document_.attributes ?? []).filter((a) => a.scope === 'item'));
  /** what is asked: `q:` a question, `every`, `look`, `g:` a group of tags, `t:` a single tag */
  const what = $derived(
    params.get('ask') ?? (objectQuestions[0] ? `q:${objectQuestions[0].key}` : itemQuestions[0] ? `q:${itemQuestions[0].key}` : 'look')
  );
  const question = $derived(what.startsWith('q:') ? (document_.attributes?.find((a) => a.key === what.slice(2)) ?? null) : null);
  const single = $derived(what.startsWith('t:') ? (singles.find((t) => t.key === what.slice(2)) ?? null) : null);
  const overItems = $derived(what.startsWith('g:') || single !== null || question?.scope === 'item');
  const asking = $derived(
    question
      ? document_.classes.filter((c) => c.attributes?.includes(question.key))
      : document_.classes.filter((c) => words.kindsOf(c.key).length > 0)
  );
  const which = $derived(what === 'every' ? 'open' : what === 'look' ? '' : (params.get('answer') ?? 'open'));
  const plan = $derived<Plan>({
    over: overItems ? 'items' : 'objects',
    ...(question ? { question: question.key } : {}),
    ...(what === 'every' ? { every: true } : {}),
    ...(what.startsWith('g:') ? { group: what.slice(2) } : {}),
    ...(single ? { tag: single.key } : {}),
    ...(!overItems && params.get('class') ? { class: params.get('class')! } : {}),
    ...(which !== '' ? { answer: which } : {}),
    ...(params.get('set') !== null ? { set: params.get('set')! } : {})
  });
  const choices = $derived.by<Choice[]>(() => [
    {
      name: 'ask',
      label: 'what is asked',
      lead: 'Ask',
      value: what,
      options: [
        ...objectQuestions.map((q) => ({ value: `q:${q.key}`, word: q.name })),
        ...(objectQuestions.length > 1 ? [{ value: 'every', word: 'every open question' }] : []),
        ...itemQuestions.map((q) => ({ value: `q:${q.key}`, word: `${q.name} (the picture)` })),
        ...groups.map((g) => ({ value: `g:${g}`, word: `tags: ${g}` })),
        ...singles.map((t) => ({ value: `t:${t.key}`, word: `tag: ${t.name}` })),
        { value: 'look', word: 'nothing, only look' }
      ]
    },
    ...(overItems
      ? []
      : [
          {
            name: 'class',
            label: 'of which class',
            lead: 'of',
            value: params.get('class') ?? '',
            options: [
              { value: '', word: asking.length === 1 ? asking[0]!.name : 'all classes' },
              ...(asking.length > 1 ? classOptions(asking) : [])
            ]
          }
        ]),
    ...(question || plan.group || single
      ? [
          {
            name: 'answer',
            label: 'which of them',
            lead: overItems ? 'of pictures' : '',
            value: which,
            options: [
              { value: 'open', word: single ? 'without it' : 'not answered' },
              { value: '', word: single ? 'with it or not' : 'answered or not' },
              ...(question
                ? answerOptions(question, (answer) => `now “${answer}”`)
                : single
                  ? [{ value: single.key, word: 'with it' }]
                  : words.itemTags.filter((t) => t.group === plan.group).map((t) => ({ value: t.key, word: `now “${t.name}”` })))
            ]
          }
        ]
      : []),
    ...setChoice(sets, params.get('set'), 'in')
  ]);

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
      clearTimeout(keeping);
      edits.close();
    };
  });
  $effect(() => {
    if (session.signIns > 0) outbox.wake();
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
    const { over, class: key, question: q, group, tag, answer, set } = plan;
    const path = { project: project.id };
    const common = { ...(q ? { question: q } : {}), ...(answer ? { answer } : {}), ...(set !== undefined ? { set } : {}), limit: 1 };
    try {
      const found =
        over === 'objects'
          ? await ask(api.GET('/projects/{project}/objects', { params: { path, query: { ...common, ...(key ? { class: key } : {}) } } }))
          : await ask(
              api.GET('/projects/{project}/said', {
                params: { path, query: { ...common, ...(group ? { group } : {}), ...(tag ? { tag } : {}) } }
              })
            );
      if (of === asked) [count, error] = [found.total, ''];
    } catch (e) {
      if (of === asked) error = (e as Error).message;
    }
  }
  function narrow(change: Record<string, string | null>) {
    void goto(`?${narrowed(page.url.searchParams, change, ['go', 'after'])}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  function choose(name: string, value: string) {
    narrow(name === 'ask' ? { ask: value, class: null, answer: null } : { [name]: value });
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
  const written = $derived(open !== null && ['text', 'date', 'time', 'datetime', 'number'].includes(open.type));
  const coming = $derived(sweep ? sweep.subjects.slice(sweep.at + 1, sweep.at + 12) : []);
  const itemOf = (s: Subject) => (s.object ?? s.item)!.item;
  const markOf = (s: Subject) => (s.object ? (edits.now(s.object) ?? fromServer(s.object.mark)) : null);
  $effect(() => {
    if (!sweep) return;
    const wanted = sweep.subjects.slice(Math.max(0, sweep.at - 2), sweep.at + 14).map(itemOf);
    untrack(() => pictures.want(wanted));
  });
  $effect(() => {
    void [subject?.id, open?.key];
    unwritten = false;
  });

  const digits = $derived<Row>({
    name: overItems ? '' : 'classes',
    caps:
      sweep && !overItems
        ? digitPlaces(document_.classes.filter((c) => mark && words.kindsOf(c.key).includes(mark.kind))).map(({ digit, key }) => ({
            code: `Digit${digit}`,
            word: words.nameOf(key),
            marker: { marker: words.marker(key), color: words.light(key) },
            lit: mark?.class === key,
            press: () => sweep!.become(key)
          }))
        : []
  });
  const bench = $derived(
    subject?.object?.turn ? `/p/${project.id}/bench/${subject.object.turn}?${new URLSearchParams({ mark: subject.id, back: spot })}` : null
  );
  const field = () => document.querySelector<HTMLElement>('[data-answer]');
  const empty: Row = { name: '', caps: [] };
  const rows = $derived.by<Row[]>(() => {
    if (!sweep || !subject) return [];
    const back: Cap = {
      code: 'KeyC',
      word: 'back',
      icon: ChevronLeft,
      off: sweep.at > 0 || sweep.done.length > 0 ? undefined : 'this is the first',
      press: () => sweep!.back()
    };
    const skip: Cap = { code: 'KeyV', word: 'skip', icon: ChevronRight, again: true, press: () => sweep!.skip() };
    let shown: Row[];
    if (open)
      shown = answersOf(
        open,
        sweep.answers[open.key],
        (answer, stay) => sweep!.answer(answer, stay),
        () => {
          unwritten = false;
          field()?.focus();
        }
      );
    else if (plan.group)
      shown = [
        {
          name: plan.group,
          caps: words.itemTags
            .filter((t) => t.group === plan.group)
            .slice(0, 10)
            .map((t, i) => ({
              code: [...letters.Q, ...letters.A][i]!,
              word: t.name,
              lit: sweep!.tags.includes(t.key),
              press: () => sweep!.tag(t.key)
            }))
        },
        empty,
        empty
      ];
    else if (single) {
      const on = sweep.tags.includes(single.key);
      shown = [
        {
          name: 'tag',
          caps: [
            { code: 'KeyQ', word: single.name, icon: Check, lit: on, press: () => sweep!.tag(single.key) },
            { code: 'KeyW', word: `not ${single.name}`, icon: CircleSlash, press: () => sweep!.untag(single.key) }
          ]
        },
        empty,
        empty
      ];
    } else
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
        empty
      ];
    // the last row is free for back and on, on the keys they have on the bench, where it is not full of answers
    const last = shown[2]!;
    const places = letters.Z.filter((code) => !last.caps.some((c) => c.code === code));
    const onto = [back, skip].flatMap((cap, i): Cap[] => {
      const code = places.includes(cap.code) ? cap.code : places[places.length - 2 + i];
      return code === undefined ? [] : [{ ...cap, code }];
    });
    return [
      shown[0]!,
      shown[1]!,
      { ...last, caps: [...last.caps, ...onto].sort((a, b) => letters.Z.indexOf(a.code) - letters.Z.indexOf(b.code)) }
    ];
  });

  const layer: Layer = {
    field: () => (written && open?.type !== 'number' && !unwritten ? field() : null),
    escape: () => {
      if (document.activeElement?.matches('[data-answer]')) {
        unwritten = true;
        stage?.focus();
      } else if (edits.message !== '') edits.message = '';
      else if (sweep) leave();
      else return false;
      return true;
    },
    press: (e) => {
      if (!sweep) return false;
      if (e.ctrlKey || e.metaKey) {
        if (e.code !== 'KeyZ' || e.shiftKey) return false;
        sweep.back();
        return true;
      }
      if (e.altKey) return false;
      if (e.code === 'ArrowRight') sweep.skip();
      else if (e.code === 'ArrowLeft') sweep.back();
      else if (e.key === '+') zoom(-1);
      else if (e.key === '-') zoom(1);
      else if (e.code === 'Enter') {
        // several choices, or none of them yet: on it goes
        if (open && sweep.answers[open.key] !== undefined) sweep.next();
        else sweep.skip();
      } else return false;
      return true;
    }
  };
  const keys: Keys = {
    layers: [layer],
    caps: () => (sweep ? [...digits.caps, ...rows.flatMap((r) => r.caps)] : []),
    bound: () => session.user?.settings.keys ?? {},
    say: (message) => (edits.message = message)
  };
  let keeping: ReturnType<typeof setTimeout> | undefined;
  /** More or less round it; kept for this person. */
  function zoom(by: number) {
    margin = Math.min(4, Math.max(0, Math.round((margin + by * (margin >= 1 ? 0.2 : 0.1)) * 100) / 100));
    clearTimeout(keeping);
    keeping = setTimeout(() => session.set({ margin }).catch((e: Error) => (edits.message = e.message)), 800);
  }

  const name = $derived(
    subject ? (subject.object ? `${words.nameOf(mark?.class ?? '')} on ${subject.object.item.name}` : itemOf(subject).name) : ''
  );
  const minutes = $derived(Math.max(0, now - began) / 60_000);
  const troubled = $derived(
    error !== '' ||
      edits.message !== '' ||
      (sweep?.error ?? '') !== '' ||
      outbox.heldOf(project.id).length > 0 ||
      outbox.unkept !== '' ||
      editor.conflicts.length > 0
  );
</script>

<svelte:head><title>Sweep · Skeno</title></svelte:head>
<svelte:window onkeydown={(e) => !session.ended && press(e, keys)} />

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="sweep" onmousedown={(e) => sweep && keepFocus(e, () => stage ?? null)}>
  <header>
    <nav class="crumbs" aria-label="where you are">
      <a href="/">Skeno</a> › <a href="/p/{project.id}">{project.project?.name ?? ''}</a> › <strong>sweep</strong>
    </nav>
    {#if sweep}
      <strong class="asks">{open?.name ?? plan.group ?? single?.name ?? 'look'}</strong>
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
      <Saved {outbox} project={project.id} />
      <button class="act" onclick={leave}>Stop</button>
    {/if}
  </header>
  {#if troubled}
    <div class="say">
      <Delivery
        {outbox}
        project={project.id}
        turn={BESIDE}
        {editor}
        name={(value) => (value === null ? 'An object' : 'tags' in value ? 'What is said of a picture' : words.nameOf(value.class))}
      />
      <span role="alert">{error || edits.message || sweep?.error}</span>
      {#if sweep?.error}<button class="act" onclick={() => sweep?.retry()}>try again</button>{/if}
    </div>
  {/if}
  {#if !sweep}
    <main>
      {#if ready}
        <h1>Sweep</h1>
        <p class="sentence"><Filters {choices} change={choose} /></p>
        <p class="soft" role="status" aria-label="how many">
          {#if count !== null}<strong class="num">{count}</strong>
            {overItems ? (count === 1 ? 'picture' : 'pictures') : count === 1 ? 'object' : 'objects'}, a key each{/if}
        </p>
        {#if error !== '' && count === null}<button class="act" onclick={() => number()}>try again</button>{/if}
        <button class="act main big" disabled={!count} onclick={() => begin(null)}><Play size={17} strokeWidth={1.75} />Begin</button>
        {#if !project.may('items.see')}<p class="soft small">Objects on what you have open, and on what waits for you.</p>{/if}
      {/if}
    </main>
  {:else if sweep.ended || !subject}
    <main>
      <h1>{sweep.total === 0 ? 'Nothing to sweep' : 'Done'}</h1>
      <p class="sentence" role="status" aria-label="what was done">
        {sweep.sum} in
        <span class="num">{minutes < 1 ? `${Math.round(minutes * 60)} s` : `${Math.round(minutes)} min`}</span>{#if sweep.skipped.size > 0}, <span
            class="num">{sweep.skipped.size}</span
          >
          {plan.question || plan.every || plan.group || plan.tag ? 'skipped and left open' : 'passed by'}{/if}.
      </p>
      <div class="ends">
        {#if sweep.skipped.size > 0 && which === 'open'}<button class="act main" onclick={() => begin(null)}>Go through what is open</button
          >{/if}
        {#if sweep.at > 0}<button class="act" onclick={() => sweep?.back()}>Back to the last</button>{/if}
        <button class="act" onclick={leave}>Another sweep</button>
        <a class="act" href="/">My work</a>
      </div>
    </main>
  {:else}
    <div class="place">
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div
        class="stage"
        role="img"
        tabindex="0"
        aria-label={name}
        bind:this={stage}
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
      </div>
      {#if open && written}
        <div class="write" data-keeps-focus>
          {#key `${subject.id} ${open.key}`}
            <AnswerEditor
              attribute={{ ...open, no_value: [] }}
              answer={sweep.answers[open.key]}
              give={(answer, stay) => (answer === null && stay ? undefined : sweep?.answer(answer, stay))}
              left={() => stage?.focus()}
            />
          {/key}
        </div>
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
      fold={(f) => session.setDeckFolded(f).catch((e: Error) => (edits.message = e.message))}
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
  .sentence :global(select) {
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
  .place {
    position: relative;
    min-height: 0;
    display: grid;
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
