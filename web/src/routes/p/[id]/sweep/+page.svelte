<script lang="ts">
  /** A sweep: one question over many objects or items, close up, a key each. First what is swept over, as a sentence. */
  import { pageSize } from '$lib/words/pages';
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask } from '$lib/api/client';
  import Delivery from '$lib/edits/Delivery.svelte';
  import { BESIDE } from '$lib/edits/outbox.svelte';
  import Saved from '$lib/edits/Saved.svelte';
  import Deck from '$lib/keys/Deck.svelte';
  import { keepFocus, press, type Keys, type Layer } from '$lib/keys/layers';
  import { Asked } from '$lib/objects/asked';
  import Around from '$lib/objects/Around.svelte';
  import Close from '$lib/objects/Close.svelte';
  import Whole from '$lib/objects/Whole.svelte';
  import { ObjectEdits } from '$lib/objects/edits.svelte';
  import { narrowed } from '$lib/objects/filters';
  import { Pictures } from '$lib/objects/pictures.svelte';
  import { SweepDeck } from '$lib/objects/sweep-deck';
  import { Sweep, type Subject } from '$lib/objects/sweep.svelte';
  import SweepBegin from '$lib/objects/SweepBegin.svelte';
  import SweepEnd from '$lib/objects/SweepEnd.svelte';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import AnswerEditor from '$lib/words/AnswerEditor.svelte';
  import { say } from '$lib/words/codebook';
  import { fromServer } from '$lib/words/mark';
  import { onMount, untrack } from 'svelte';

  const project = useProject();
  const edits = new ObjectEdits(project.id, session.user!.id);
  const { words, outbox, editor } = edits;
  const pictures = new Pictures();
  let ready = $state(false);
  let error = $state('');
  let sets = $state<string[]>([]);
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

  const asked = $derived(new Asked(words, page.url.searchParams));

  onMount(() => {
    edits.start().then(
      () => {
        ready = true;
        if (page.url.searchParams.get('go') !== null) void begin(page.url.searchParams.get('after'));
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

  function narrow(change: Record<string, string | null>) {
    void goto(`?${narrowed(page.url.searchParams, change, ['go', 'after'])}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  function choose(name: string, value: string) {
    narrow(name === 'ask' ? { ask: value, class: null, answer: null } : { [name]: value });
  }

  async function begin(after: string | null) {
    const started = new Sweep(edits, asked.plan);
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
  const markOf = (s: Subject) =>
    s.object ? (edits.now(s.object) ?? fromServer(s.object.mark)) : s.stretch?.mark ? fromServer(s.stretch.mark) : null;
  /** The picture it is seen on; of a clip the frame, of a document the page. */
  const itemOf = (s: Subject) => {
    const { item } = (s.object ?? s.item ?? s.stretch)!;
    const place = s.stretch?.place ?? (s.object?.mark.stretches || item.document ? (s.object?.mark.place ?? null) : null);
    return { ...item, place, ...(item.document && pageSize(item.document.sheets, place ?? 0)) };
  };
  /** the frame that is looked at in a stretch, where it is not the one it is shown by */
  let place = $state<number | null>(null);
  $effect(() => {
    if (!sweep) return;
    const wanted = sweep.subjects.slice(Math.max(0, sweep.at - 2), sweep.at + 14).map(itemOf);
    untrack(() => pictures.want(wanted));
  });
  $effect(() => {
    void [subject?.id, open?.key];
    unwritten = false;
    place = null;
  });

  const bench = $derived.by(() => {
    const at = subject?.object ?? subject?.stretch;
    if (!at?.turn) return null;
    const where = subject!.stretch ? (place ?? subject!.stretch.first) : (subject!.object?.key?.place ?? null);
    const params = { ...(at.mark && { mark: at.mark.id }), ...(where !== null && { place: String(where) }), back: spot };
    return `/p/${project.id}/bench/${at.turn}?${new URLSearchParams(params)}`;
  });
  /** Looks along a stretch: an eighth of it on or back, up to its ends. */
  function along(by: 1 | -1) {
    const stretch = subject?.stretch;
    if (!stretch) return false;
    const step = Math.max(1, Math.round((stretch.last - stretch.first) / 8));
    place = Math.min(stretch.last, Math.max(stretch.first, (place ?? stretch.place) + by * step));
    pictures.want([{ ...stretch.item, place }]);
    return true;
  }
  const field = () => document.querySelector<HTMLElement>('[data-answer]');
  const deck = $derived(
    sweep &&
      new SweepDeck(sweep, {
        words,
        asked,
        write: () => {
          unwritten = false;
          field()?.focus();
        },
        bench: bench === null ? null : () => void goto(bench)
      })
  );

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
      else if (e.code === 'ArrowUp' || e.code === 'ArrowDown') return along(e.code === 'ArrowUp' ? -1 : 1);
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
    caps: () => (deck ? [...deck.digits.caps, ...deck.rows.flatMap((r) => r.caps)] : []),
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

  const name = $derived.by(() => {
    if (!subject) return '';
    const item = itemOf(subject);
    const on = mark ? `${words.nameOf(mark.class)} on ${item.name}` : item.name;
    const { stretch } = subject;
    if (!stretch) return item.place === null ? on : `${on}, ${item.document ? 'page' : 'frame'} ${item.place + 1}`;
    if (item.document) return `${on}, page ${stretch.first + 1}`;
    return `${on}, frames ${stretch.first + 1} to ${stretch.last + 1}`;
  });
  const now_ = $derived(subject?.stretch && place !== null ? { ...itemOf(subject), place } : subject ? itemOf(subject) : null);
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

{#snippet close(
  of: Subject,
  item: ReturnType<typeof itemOf>,
  shown: ReturnType<typeof markOf>,
  w: number,
  h: number,
  size: number,
  lines: boolean
)}
  {#if of.object?.words && shown}<Around object={of.object} mark={shown} {edits} width={w} height={h} {size} />
  {:else if of.item?.item.text}<Whole path={of.item.item.text.path} width={w} height={h} size={size === 9 ? 7 : 17} />
  {:else if of.object && shown?.kind === 'cuboid'}<img
      class="portrait"
      src={of.object.crop}
      alt={words.nameOf(shown.class)}
      style:width="{Math.min(w, h)}px"
      style:height="{Math.min(w, h)}px"
      data-drawn="yes"
    />
  {:else}<Close {item} mark={shown} question={open} {edits} {pictures} {margin} width={w} height={h} outline={lines} />{/if}
{/snippet}

<svelte:head><title>Sweep · Skeno</title></svelte:head>
<svelte:window onkeydown={(e) => !session.ended && press(e, keys)} />

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="sweep" onmousedown={(e) => sweep && keepFocus(e, () => stage ?? null)}>
  <header>
    <nav class="crumbs" aria-label="where you are">
      <a href="/">Skeno</a> › <a href="/p/{project.id}">{project.project?.name ?? ''}</a> › <strong>sweep</strong>
    </nav>
    {#if sweep}
      <strong class="asks">{open?.name ?? asked.group ?? asked.single?.name ?? 'look'}</strong>
      <span class="soft" role="status" aria-label="progress"
        ><span class="num">{sweep.total === null ? sweep.at : Math.min(sweep.at, sweep.total)}</span>{#if sweep.total !== null}&nbsp;of
          <span class="num">{sweep.total}</span>{/if}{#if sweep.skipped.size > 0},
          <span class="num">{sweep.skipped.size}</span> skipped{/if}</span
      >
      <span class="bar" aria-hidden="true"><span style:width="{(100 * sweep.at) / Math.max(1, sweep.total ?? 1)}%"></span></span>
      <span class="soft" title="over the last minute"><span class="num">{sweep.pace(now)}</span> a minute</span>
      <span class="push"></span>
      <label class="soft"><input type="checkbox" bind:checked={outline} disabled={mark === null} /> outline</label>
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
        name={(value) =>
          value === null
            ? 'An object'
            : 'tags' in value
              ? 'What is said of an item'
              : 'class' in value
                ? words.nameOf(value.class)
                : 'A key'}
      />
      <span role="alert">{error || edits.message || sweep?.error}</span>
      {#if sweep?.error}<button class="act" onclick={() => sweep?.retry()}>try again</button>{/if}
    </div>
  {/if}
  {#if !sweep}
    <main>
      {#if ready}<SweepBegin
          project={project.id}
          {asked}
          {sets}
          seesAll={project.may('items.see')}
          {choose}
          begin={() => void begin(null)}
        />{/if}
    </main>
  {:else if !sweep.ended && !subject}
    <main><p class="soft" role="status">{sweep.error === '' ? 'the next are on their way' : 'the next could not be fetched'}</p></main>
  {:else if sweep.ended || !subject}
    <main><SweepEnd {sweep} {minutes} openLeft={asked.which === 'open'} again={() => void begin(null)} {leave} /></main>
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
        {@render close(subject, now_!, place === null ? mark : null, width, height, 21, outline)}
        <div class="what">
          {name}{#if open && sweep.answers[open.key]}<span class="soft">&nbsp;· now {say(open, sweep.answers[open.key])}</span
            >{/if}{#if subject.stretch && !now_?.document}<span class="soft"
              >&nbsp;· frame <span class="num">{(now_?.place ?? 0) + 1}</span>, ↑ ↓ look along it</span
            >{/if}
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
          {@render close(s, itemOf(s), markOf(s), 104, 78, 9, false)}
        </div>
      {/each}
    </div>
    <Deck
      digits={deck?.digits ?? { name: '', caps: [] }}
      rows={deck?.rows ?? []}
      named={true}
      folded={session.user?.settings.deck_folded ?? false}
      keys={session.user?.settings.keys ?? {}}
      fold={(f) => session.setDeckFolded(f).catch((e: Error) => (edits.message = e.message))}
    />
  {/if}
</div>

<style>
  .portrait {
    display: block;
    margin: 0 auto;
  }
  .sweep {
    display: grid;
    grid-template-rows: 40px;
    grid-auto-rows: auto;
    align-content: start;
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
