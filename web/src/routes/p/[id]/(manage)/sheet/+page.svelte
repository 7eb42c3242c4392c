<script lang="ts">
  /** The contact sheet: all objects of a class side by side, the odd ones first; put right in place. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask, type Schemas } from '$lib/api/client';
  import Delivery from '$lib/edits/Delivery.svelte';
  import { BESIDE } from '$lib/edits/outbox.svelte';
  import Saved from '$lib/edits/Saved.svelte';
  import Deck from '$lib/keys/Deck.svelte';
  import { press, type Keys, type Layer } from '$lib/keys/layers';
  import Cell from '$lib/objects/Cell.svelte';
  import { ObjectEdits, type Found } from '$lib/objects/edits.svelte';
  import { narrowed } from '$lib/objects/filters';
  import Filters from '$lib/objects/Filters.svelte';
  import { Grid } from '$lib/objects/grid';
  import { Listed } from '$lib/objects/listed';
  import { SheetDeck, type Looks } from '$lib/objects/sheet-deck';
  import { Sheet } from '$lib/objects/sheet.svelte';
  import AnswerEditor from '$lib/words/AnswerEditor.svelte';
  import FindClass from '$lib/words/FindClass.svelte';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { onMount, tick, untrack } from 'svelte';

  const project = useProject();
  const edits = new ObjectEdits(project.id, session.user!.id, () => void sheet.show(query));
  const { words, outbox, editor } = edits;
  const sheet = new Sheet(project.id);
  const mayChange = $derived(project.may('review'));
  let ready = $state(false);
  let error = $state('');
  let people = $state<Schemas['Progress']['people']>([]);
  let sets = $state<string[]>([]);
  let looks = $state.raw<Looks>({ side: 116, margin: 0.2, outline: true });
  let question = $state<string | null>(null);
  let finding = $state(false);
  let table: HTMLElement | undefined = $state();
  let width = $state(900);
  let height = $state(500);
  let top = $state(0);

  const listed = $derived(new Listed(words, page.url.searchParams, sheet.tracks));
  const query = $derived(listed.query);

  onMount(() => {
    edits.start().then(
      () => (ready = true),
      (e) => (error = (e as Error).message)
    );
    if (project.may('figures.see'))
      ask(api.GET('/projects/{project}/progress', parts(project.id))).then(
        (p) => {
          people = p.people;
          sets = p.sets.map((s) => s.path);
        },
        (e) => (error = (e as Error).message)
      );
    return () => {
      edits.close();
      sheet.close();
    };
  });
  $effect(() => {
    if (session.signIns > 0) outbox.wake();
  });
  // what the worker has found out meanwhile is shown by itself as long as nothing was begun here, else when asked for
  let stale = $state(false);
  onMount(() => {
    const timer = setInterval(() => {
      if (!ready || !sheet.looking || document.visibilityState !== 'visible') return;
      void sheet.look().then(() => {
        if (sheet.looking) return;
        if (edits.canUndo || sheet.chosen.size > 0 || sheet.at > 0 || top > 0) stale = true;
        else void sheet.show(query);
      });
    }, 2500);
    return () => clearInterval(timer);
  });
  const asking = $derived(JSON.stringify(query));
  $effect(() => {
    void asking;
    if (!ready) return;
    untrack(() => {
      sheet.at = Math.max(0, Number(page.url.searchParams.get('at') ?? 0) || 0);
      void sheet.show(query).then(async () => {
        await tick();
        reveal(true);
      });
    });
  });

  function narrow(change: Record<string, string | null>) {
    void goto(`?${narrowed(page.url.searchParams, change, ['at'])}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  const choose_ = (name: string, value: string) => narrow(listed.chosen(name, value));

  const grid = $derived(new Grid(sheet.total ?? 0, looks.side, width, height));
  const sight = $derived(grid.sight(top));
  const places = $derived(Array.from({ length: sight.to - sight.from }, (_, i) => sight.from + i));
  $effect(() => sheet.need(sight.from, sight.to));

  function reveal(middle = false) {
    if (!table) return;
    table.scrollTop = grid.reveal(sheet.at, table.scrollTop, middle);
    top = table.scrollTop;
  }
  function go(place: number) {
    if (sheet.total === null || sheet.total === 0) return;
    sheet.at = Math.min(sheet.total - 1, Math.max(0, place));
    reveal();
  }
  /** Everything from one place to another is chosen, also what has not been in sight yet. */
  async function chooseRange(from: number, to: number) {
    const found = await sheet.range(Math.min(from, to), Math.max(from, to));
    if (found === null) edits.message = 'a part of these could not be loaded; nothing was chosen';
    else for (const one of found) sheet.chosen.add(one.id);
  }
  function choose(place: number, range: boolean) {
    const before = sheet.at;
    sheet.at = place;
    if (range) return void chooseRange(before, place);
    const object = sheet.get(place);
    if (!object) return;
    if (sheet.chosen.has(object.id)) sheet.chosen.delete(object.id);
    else sheet.chosen.add(object.id);
  }

  /** Keeps the spot in the address, so that coming back from the bench comes back to it. */
  async function open(object: Found | undefined) {
    if (!object || object.turn === null) return;
    sheet.at = sheet.placeOf(object.id) ?? sheet.at;
    const next = new URLSearchParams(page.url.searchParams);
    next.set('at', String(sheet.at));
    const back = `/p/${project.id}/sheet?${next}`;
    replaceState(back, {});
    await goto(
      `/p/${project.id}/bench/${object.turn}?${new URLSearchParams({ mark: object.mark.id, ...(object.key && { place: String(object.key.place) }), back })}`
    );
  }
  function become(to: string) {
    const hand = sheet.inHand;
    const fit = hand.filter((o) => words.kindsOf(to).includes(o.mark.kind as never));
    edits.change(fit, (mark) => (mark.class === to ? mark : words.reclassed(mark, to)));
    edits.message =
      fit.length < hand.length
        ? `${hand.length - fit.length} of them ${hand.length - fit.length === 1 ? 'is' : 'are'} of a shape ${words.nameOf(to)} is not drawn as`
        : '';
    if (fit.length > 0) sheet.chosen.clear();
  }
  /** Every key of one track beside each other; and back to where it stands among the others. */
  let before: { place: number; search: string } | null = null;
  function widen(mark: string | null) {
    if (mark !== null) {
      before = { place: sheet.at, search: page.url.search };
      return narrow({ each: 'key', mark, sort: 'item', order: null, question: null, answer: null, author: null });
    }
    if (before === null) return narrow({ each: null, mark: null, sort: null });
    const next = new URLSearchParams(before.search);
    next.set('at', String(before.place));
    before = null;
    void goto(`?${next}`, { keepFocus: true, noScroll: true, replaceState: true });
  }
  function remove() {
    edits.message = '';
    edits.change(sheet.inHand, () => null);
    sheet.chosen.clear();
  }
  function takeBack(again = false) {
    const [mark] = again ? edits.redo() : edits.undo();
    const place = mark === undefined ? null : sheet.placeOf(mark);
    if (place !== null) go(place);
  }

  const hand = $derived(sheet.inHand);
  const first = $derived(hand[0] ? edits.now(hand[0]) : null);
  const asks = $derived(listed.questions.find((q) => q.key === question) ?? null);
  const written = $derived(asks !== null && ['text', 'date', 'time', 'datetime', 'number'].includes(asks.type));
  const field = () => document.querySelector<HTMLElement>('[data-field], [data-answer]');
  /** Answers the open question of all that is in hand and asked it. */
  function answer(given: Parameters<typeof words.answered>[2], stay = false) {
    const open = asks;
    if (!open) return;
    edits.change(sheet.inHand, (mark) =>
      words.questionsOf(mark).some((a) => a.key === open.key) ? words.answered(mark, open.key, given) : mark
    );
    if (!stay) question = null;
  }
  const deck = $derived(
    new SheetDeck(sheet, edits, {
      words,
      listed,
      mayChange,
      looks,
      show: (change) => (looks = { ...looks, ...change }),
      question: asks,
      ask: (q) => (question = q.key),
      answer,
      write: () => field()?.focus(),
      go,
      choose: (place) => choose(place, false),
      open: (object) => void open(object),
      become,
      remove,
      takeBack: () => takeBack(),
      widen
    })
  );

  const layer: Layer = {
    field: () => (finding || (written && asks?.type !== 'number') ? field() : null),
    escape: () => {
      if (finding) finding = false;
      else if (question !== null) question = null;
      else if (sheet.chosen.size > 0) sheet.chosen.clear();
      else if (edits.message !== '') edits.message = '';
      else return false;
      table?.focus({ preventScroll: true });
      return true;
    },
    press: (e) => {
      if (!ready) return false;
      if (e.ctrlKey || e.metaKey) {
        if (e.code !== 'KeyZ') return false;
        takeBack(e.shiftKey);
        return true;
      }
      if (e.altKey) return false;
      const { columns, perPage } = grid;
      const moves: Record<string, number> = {
        ArrowLeft: -1,
        ArrowRight: 1,
        ArrowUp: -columns,
        ArrowDown: columns,
        PageUp: -perPage,
        PageDown: perPage
      };
      if (e.code in moves) {
        const before = sheet.at;
        go(sheet.at + moves[e.code]!);
        if (e.shiftKey) void chooseRange(before, sheet.at);
      } else if (e.code === 'Home') go(0);
      else if (e.code === 'End') go((sheet.total ?? 1) - 1);
      else if (e.code === 'Space') choose(sheet.at, false);
      else if (e.code === 'Enter') void open(sheet.get(sheet.at));
      else if (e.code === 'Delete' && mayChange) remove();
      else if (e.key === '/' && mayChange) finding = true;
      else return false;
      return true;
    }
  };
  const keys: Keys = {
    layers: [layer],
    caps: () => (ready ? [...deck.digits.caps, ...deck.rows.flatMap((r) => r.caps)] : []),
    bound: () => session.user?.settings.keys ?? {},
    say: (message) => (edits.message = message)
  };
  /** Oddness is known from a number of examples on, and only once a worker has looked. */
  const unknown = $derived(
    listed.sort !== 'oddness' || sheet.total === null || sheet.total === 0 || sheet.get(0) === undefined || sheet.get(0)!.oddness !== null
      ? ''
      : sheet.total < sheet.enough
        ? `oddness is known from ${sheet.enough} examples on; ${words.nameOf(listed.class)} has ${sheet.total}`
        : sheet.looking
          ? 'oddness is not known yet: the objects are being looked at'
          : 'oddness is not known yet'
  );
</script>

<svelte:window onkeydown={(e) => !session.ended && press(e, keys)} />

<Shell title="Contact sheet" {project} full>
  {#snippet actions()}<Saved {outbox} project={project.id} />{/snippet}
  <div class="sheet">
    <div>
      <div class="line">
        {#if ready}
          <Filters choices={listed.what} change={choose_} />
          <button
            class="act"
            title="turn the order round"
            aria-label="turn the order round"
            onclick={() => narrow({ order: listed.order === 'asc' ? 'desc' : 'asc' })}>{listed.order === 'asc' ? '↑' : '↓'}</button
          >
          <Filters choices={listed.which(people, sets)} change={choose_} />
          <span class="push"></span>
          {#if listed.mark !== null}<span class="soft">one track</span>{/if}
          {#if stale && listed.sort === 'oddness'}<button
              class="act"
              onclick={() => {
                stale = false;
                sheet.at = 0;
                void sheet.show(query).then(() => reveal(true));
              }}>Sort anew</button
            >{/if}
          <span role="status" class="soft"
            >{#if sheet.total !== null}<span class="num">{sheet.total}</span>
              {listed.byKey
                ? sheet.total === 1
                  ? 'key'
                  : 'keys'
                : sheet.total === 1
                  ? 'object'
                  : 'objects'}{/if}{#if sheet.chosen.size > 0}, <span class="num">{sheet.chosen.size}</span> chosen{/if}{#if sheet.due > 0}
              &nbsp;· <span class="num">{sheet.due}</span> being looked at{:else if sheet.looking}
              · being compared{/if}</span
          >
        {/if}
      </div>
      <ErrorNote message={error || sheet.error || edits.message} />
      {#if sheet.failed}<button class="act" onclick={() => sheet.retry()}>try again</button>{/if}
      {#if unknown !== ''}<p class="soft unknown" role="status" aria-label="oddness">{unknown}</p>{/if}
      <Delivery
        {outbox}
        project={project.id}
        turn={BESIDE}
        {editor}
        name={(value) => (value === null || !('class' in value) ? 'An object' : words.nameOf(value.class))}
      />
    </div>
    <div
      class="objects"
      role="listbox"
      aria-label="objects"
      aria-multiselectable="true"
      aria-activedescendant={sheet.get(sheet.at) ? `object-${sheet.get(sheet.at)!.id}` : undefined}
      tabindex="0"
      bind:this={table}
      bind:clientWidth={width}
      bind:clientHeight={height}
      onscroll={(e) => (top = e.currentTarget.scrollTop)}
    >
      {#if sheet.total === 0}<p class="none">
          No {listed.byKey ? 'key of ' : ''}{words.nameOf(listed.class)}
          {listed.question ? 'with this answer' : 'has been drawn yet'}.
        </p>{/if}
      <div class="all" style:height="{grid.extent}px">
        {#each places as place (place)}
          {@const object = sheet.get(place)}
          {@const spot = grid.at(place)}
          <div
            class="cell"
            class:here={place === sheet.at}
            role="option"
            id={object ? `object-${object.id}` : undefined}
            tabindex="-1"
            aria-selected={object ? sheet.chosen.has(object.id) : false}
            aria-posinset={place + 1}
            aria-setsize={sheet.total ?? 0}
            style:transform="translate({spot.x}px, {spot.y}px)"
            style:width="{grid.side}px"
            style:height="{grid.cell}px"
            onclick={(e) => choose(place, e.shiftKey)}
            ondblclick={() => void open(object)}
            onkeydown={() => {}}
          >
            {#if object}<Cell {object} {edits} {listed} {looks} />{:else}<span class="unseen">loading</span>{/if}
          </div>
        {/each}
      </div>
    </div>
    <div class="deckplace">
      <Deck
        digits={deck.digits}
        rows={deck.rows}
        named={asks !== null}
        folded={session.user?.settings.deck_folded ?? false}
        keys={session.user?.settings.keys ?? {}}
        fold={(f) => session.setDeckFolded(f).catch((e: Error) => (edits.message = e.message))}
      />
      {#if finding}<FindClass
          classes={listed.classes}
          looks={words.looks}
          choose={become}
          done={() => {
            finding = false;
            table?.focus({ preventScroll: true });
          }}
        />{/if}
      {#if written && asks && first}
        <div class="write">
          <span>{asks.name}</span>
          {#key asks.key}<AnswerEditor
              attribute={asks}
              answer={first.answers[asks.key]}
              give={answer}
              left={() => table?.focus({ preventScroll: true })}
            />{/key}
        </div>
      {/if}
    </div>
  </div>
</Shell>

<style>
  .sheet {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    min-height: 0;
  }
  .unknown {
    padding-bottom: 6px;
  }
  .write {
    position: absolute;
    left: 12px;
    bottom: 118px;
    width: 320px;
    background: var(--panel);
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 8px 10px;
    z-index: 5;
  }
  .line {
    display: flex;
    flex-wrap: wrap;
    gap: 7px;
    align-items: center;
    padding-bottom: 8px;
    min-height: 42px;
  }
  .line :global(select) {
    width: auto;
    max-width: 170px;
    padding: 3px 30px 3px 9px;
  }
  .push {
    flex: 1;
  }
  .objects {
    overflow-y: auto;
    background: var(--stage);
    margin: 0 -18px;
    position: relative;
    outline-offset: -2px;
  }
  .all {
    position: relative;
  }
  .none {
    padding: 40px;
    text-align: center;
  }
  .cell {
    position: absolute;
    top: 0;
    left: 0;
    background: var(--panel);
    border-radius: 3px;
    overflow: hidden;
    cursor: pointer;
  }
  .cell.here {
    outline: 2px solid var(--accent);
    outline-offset: 1px;
  }
  .cell[aria-selected='true'] {
    background: var(--primary);
    color: var(--on-primary);
    box-shadow: 0 0 0 3px var(--primary);
  }
  .deckplace {
    margin: 0 -18px;
    position: relative;
  }
</style>
