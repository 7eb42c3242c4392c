<script lang="ts">
  /** The contact sheet: all objects of a class side by side, the odd ones first; put right in place. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask, type Schemas } from '$lib/api/client';
  import Delivery from '$lib/edits/Delivery.svelte';
  import { BESIDE } from '$lib/edits/outbox.svelte';
  import Saved from '$lib/edits/Saved.svelte';
  import { answersOf, digitPlaces, type Row } from '$lib/keys/caps';
  import Deck from '$lib/keys/Deck.svelte';
  import { press, type Keys, type Layer } from '$lib/keys/layers';
  import Crop from '$lib/objects/Crop.svelte';
  import { ObjectEdits, type Found } from '$lib/objects/edits.svelte';
  import { answerOptions, classOptions, narrowed, setChoice, type Choice } from '$lib/objects/filters';
  import Filters from '$lib/objects/Filters.svelte';
  import { Sheet, type Query } from '$lib/objects/sheet.svelte';
  import AnswerEditor from '$lib/words/AnswerEditor.svelte';
  import { say } from '$lib/words/codebook';
  import FindClass from '$lib/words/FindClass.svelte';
  import { fromServer } from '$lib/words/mark';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import {
    Eraser,
    Expand,
    MessageCircleQuestion,
    Shrink,
    SkipForward,
    SquareArrowOutUpRight,
    SquareCheck,
    SquareDashed,
    Trash2,
    Undo2,
    ZoomIn,
    ZoomOut
  } from '@lucide/svelte';
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
  let side = $state(116);
  let margin = $state(0.2);
  let outline = $state(true);
  let question = $state<string | null>(null);
  let finding = $state(false);
  let table: HTMLElement | undefined = $state();
  let width = $state(900);
  let height = $state(500);
  let top = $state(0);

  const params = $derived(page.url.searchParams);
  const key = $derived(params.get('class') ?? words.document.classes[0]?.key ?? '');
  const sort = $derived(params.get('sort') ?? 'oddness');
  const query = $derived<Query>({
    class: key,
    sort: sort as Query['sort'],
    ...(params.get('order') ? { order: params.get('order') as Query['order'] } : {}),
    ...(params.get('question') ? { question: params.get('question')! } : {}),
    ...(params.get('answer') ? { answer: params.get('answer')! } : {}),
    ...(params.get('author') ? { author: Number(params.get('author')) } : {}),
    ...(params.get('set') !== null ? { set: params.get('set')! } : {})
  });
  const questions = $derived((words.document.attributes ?? []).filter((a) => (words.classOf(key)?.attributes ?? []).includes(a.key)));
  const filtered = $derived(questions.find((q) => q.key === params.get('question')));

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
  const order = $derived(params.get('order') ?? (sort === 'oddness' ? 'desc' : 'asc'));
  const sorts = $derived([
    ['oddness', 'oddness'],
    ['size', 'size'],
    ['aspect', 'width to height'],
    ['time', 'time'],
    ['author', 'author'],
    ['confidence', 'confidence'],
    ...(filtered ? [['answer', 'answer']] : []),
    ['item', 'picture']
  ]);
  const what = $derived.by<Choice[]>(() => [
    { name: 'class', label: 'class', lead: 'all', value: key, options: classOptions(classes) },
    { name: 'sort', label: 'sorted by', lead: 'by', value: sort, options: sorts.map(([value, word]) => ({ value: value!, word: word! })) }
  ]);
  const which = $derived.by<Choice[]>(() => [
    ...(questions.length > 0
      ? [
          {
            name: 'question',
            label: 'question',
            value: filtered?.key ?? '',
            options: [{ value: '', word: 'any answers' }, ...questions.map((q) => ({ value: q.key, word: q.name }))]
          }
        ]
      : []),
    ...(filtered
      ? [
          {
            name: 'answer',
            label: 'answer',
            value: params.get('answer') ?? '',
            options: [{ value: '', word: 'asked of' }, { value: 'open', word: 'not answered' }, ...answerOptions(filtered)]
          }
        ]
      : []),
    ...(people.length > 0
      ? [
          {
            name: 'author',
            label: 'author',
            value: params.get('author') ?? '',
            options: [{ value: '', word: 'by anybody' }, ...people.map((p) => ({ value: String(p.id), word: p.name }))]
          }
        ]
      : []),
    ...setChoice(sets, params.get('set'))
  ]);
  function choose_(name: string, value: string) {
    if (name === 'class') narrow({ class: value, question: null, answer: null });
    else if (name === 'question') narrow({ question: value, answer: null, ...(sort === 'answer' ? { sort: null } : {}) });
    else narrow({ [name]: name === 'answer' && value === '' ? null : value });
  }

  // the table: only the rows in sight are there
  const gap = 8;
  const foot = 20;
  const columns = $derived(Math.max(1, Math.floor((width - gap) / (side + gap))));
  /** what is left over lies between the columns */
  const across = $derived((width - columns * side) / (columns + 1));
  const rowHeight = $derived(side + foot + gap);
  const rowCount = $derived(Math.ceil((sheet.total ?? 0) / columns));
  const firstRow = $derived(Math.max(0, Math.floor(top / rowHeight) - 1));
  const lastRow = $derived(Math.min(rowCount - 1, Math.ceil((top + height) / rowHeight) + 1));
  const places = $derived(
    Array.from({ length: Math.max(0, (lastRow + 1 - firstRow) * columns) }, (_, i) => firstRow * columns + i).filter(
      (place) => place < (sheet.total ?? 0)
    )
  );
  $effect(() => sheet.need(firstRow * columns, (lastRow + 1) * columns));

  function reveal(middle = false) {
    if (!table) return;
    const y = Math.floor(sheet.at / columns) * rowHeight;
    if (middle) table.scrollTop = Math.max(0, y - (height - rowHeight) / 2);
    else if (y < table.scrollTop) table.scrollTop = y;
    else if (y + rowHeight > table.scrollTop + height) table.scrollTop = y + rowHeight - height + gap;
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
    else for (const one of found) sheet.chosen.add(one.mark.id);
  }
  function choose(place: number, range: boolean) {
    const before = sheet.at;
    sheet.at = place;
    if (range) return void chooseRange(before, place);
    const object = sheet.get(place);
    if (!object) return;
    if (sheet.chosen.has(object.mark.id)) sheet.chosen.delete(object.mark.id);
    else sheet.chosen.add(object.mark.id);
  }

  /** Keeps the spot in the address, so that coming back from the bench comes back to it. */
  async function open(object: Found | undefined) {
    if (!object || object.turn === null) return;
    sheet.at = sheet.placeOf(object.mark.id) ?? sheet.at;
    const next = new URLSearchParams(page.url.searchParams);
    next.set('at', String(sheet.at));
    const back = `/p/${project.id}/sheet?${next}`;
    replaceState(back, {});
    await goto(`/p/${project.id}/bench/${object.turn}?${new URLSearchParams({ mark: object.mark.id, back })}`);
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
  function remove() {
    edits.change(sheet.inHand, () => null);
    sheet.chosen.clear();
  }
  function takeBack(again = false) {
    const [mark] = again ? edits.redo() : edits.undo();
    const place = mark === undefined ? null : sheet.placeOf(mark);
    if (place !== null) go(place);
  }

  const look = $derived(mayChange ? undefined : 'you may only look');
  const hand = $derived(sheet.inHand);
  const first = $derived(hand[0] ? edits.now(hand[0]) : null);
  const open1 = $derived(question === null ? null : (questions.find((q) => q.key === question) ?? null));
  const classes = $derived(words.document.classes.filter((c) => words.kindsOf(c.key).length > 0));
  const digits = $derived<Row>({
    name: 'classes',
    caps: digitPlaces(classes).map(({ digit, key: to }) => ({
      code: `Digit${digit}`,
      word: words.nameOf(to),
      marker: { marker: words.marker(to), color: words.light(to) },
      lit: first?.class === to,
      off: look,
      press: () => become(to)
    }))
  });
  const field = () => document.querySelector<HTMLElement>('[data-field], [data-answer]');
  /** Answers the open question of all that is in hand and asked it. */
  function answer(given: Parameters<typeof words.answered>[2], stay = false) {
    const asks = open1;
    if (!asks) return;
    edits.change(sheet.inHand, (mark) =>
      words.questionsOf(mark).some((a) => a.key === asks.key) ? words.answered(mark, asks.key, given) : mark
    );
    if (!stay) question = null;
  }
  const rows = $derived.by<Row[]>(() => {
    if (open1 && first) return answersOf(open1, first.answers[open1.key], answer, () => field()?.focus());
    const none = hand.length > 0 ? undefined : 'there is no object';
    return [
      {
        name: 'objects',
        caps: [
          { code: 'KeyQ', word: 'choose', icon: SquareCheck, off: none, press: () => choose(sheet.at, false) },
          {
            code: 'KeyW',
            word: 'let go',
            icon: SquareDashed,
            off: sheet.chosen.size > 0 ? undefined : 'nothing is chosen',
            press: () => sheet.chosen.clear()
          },
          {
            code: 'KeyE',
            word: 'on the bench',
            icon: SquareArrowOutUpRight,
            off: none ?? (sheet.get(sheet.at)?.turn === null ? 'nobody has been given this item' : undefined),
            press: () => void open(sheet.get(sheet.at))
          },
          {
            code: 'KeyR',
            word: filtered?.name ?? 'answer',
            icon: MessageCircleQuestion,
            off: look ?? none ?? (questions.length === 0 ? 'this class asks nothing' : undefined),
            press: () => (question = (filtered ?? questions[0])!.key)
          },
          { code: 'KeyT', word: outline ? 'no outline' : 'outline', icon: Eraser, press: () => (outline = !outline) }
        ]
      },
      {
        name: 'put right',
        caps: [
          {
            code: 'KeyA',
            word: 'looks like',
            icon: SkipForward,
            off: sheet.nextDoubt() === null ? 'no other here looks like another class' : undefined,
            press: () => go(sheet.nextDoubt() ?? sheet.at)
          },
          { code: 'KeyD', word: 'remove', icon: Trash2, off: look ?? none, press: remove },
          { code: 'KeyG', word: 'take back', icon: Undo2, off: edits.canUndo ? undefined : 'nothing was changed', press: () => takeBack() }
        ]
      },
      {
        name: 'view',
        caps: [
          {
            code: 'KeyZ',
            word: 'smaller',
            icon: ZoomOut,
            again: true,
            off: side > 64 ? undefined : 'as small as it goes',
            press: () => (side = Math.max(64, side - 16))
          },
          {
            code: 'KeyX',
            word: 'larger',
            icon: ZoomIn,
            again: true,
            off: side < 240 ? undefined : 'as large as it goes',
            press: () => (side = Math.min(240, side + 16))
          },
          {
            code: 'KeyC',
            word: 'less round it',
            icon: Shrink,
            again: true,
            off: margin > 0 ? undefined : 'nothing round it',
            press: () => (margin = Math.max(0, Math.round((margin - 0.1) * 10) / 10))
          },
          {
            code: 'KeyV',
            word: 'more round it',
            icon: Expand,
            again: true,
            off: margin < 0.6 ? undefined : 'all there is',
            press: () => (margin = Math.min(0.6, Math.round((margin + 0.1) * 10) / 10))
          }
        ]
      }
    ];
  });

  const layer: Layer = {
    field: () => (finding || (written && open1?.type !== 'number') ? field() : null),
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
      const perPage = columns * Math.max(1, Math.floor(height / rowHeight));
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
    caps: () => (ready ? [...digits.caps, ...rows.flatMap((r) => r.caps)] : []),
    bound: () => session.user?.settings.keys ?? {},
    say: (message) => (edits.message = message)
  };
  const written = $derived(open1 !== null && ['text', 'date', 'time', 'datetime', 'number'].includes(open1.type));

  const name = (object: Found) => {
    const mark = edits.now(object);
    return [
      `${words.nameOf((mark ?? object.mark).class)}${mark === null ? ', removed,' : ''} on ${object.item.name}`,
      ...(object.oddness !== null ? [`oddness ${object.oddness.toFixed(1)}`] : []),
      ...(object.looks_like !== null && mark !== null && mark.class !== object.looks_like
        ? [`looks like ${words.nameOf(object.looks_like)}`]
        : []),
      ...(filtered && mark ? [`${filtered.name} ${say(filtered, mark.answers[filtered.key]) || 'open'}`] : [])
    ].join(', ');
  };
  const figure = (object: Found): string => {
    const mark = edits.now(object);
    if (filtered && mark && (sort === 'answer' || params.get('answer'))) return say(filtered, mark.answers[filtered.key]) || 'open';
    if (sort === 'size' && object.size) return `${Math.round(object.size[0]!)} × ${Math.round(object.size[1]!)}`;
    if (sort === 'aspect' && object.size) return (object.size[0]! / Math.max(0.01, object.size[1]!)).toFixed(2);
    if (sort === 'author') return object.author ?? '';
    if (sort === 'confidence') return object.mark.confidence === null ? 'by hand' : `${Math.round(100 * object.mark.confidence)} %`;
    if (sort === 'item') return object.item.name;
    return object.oddness === null ? '' : object.oddness.toFixed(1);
  };
  /** Oddness is known from a number of examples on, and only once a worker has looked. */
  const unknown = $derived(
    sort !== 'oddness' || sheet.total === null || sheet.total === 0 || sheet.get(0) === undefined || sheet.get(0)!.oddness !== null
      ? ''
      : sheet.total < sheet.enough
        ? `oddness is known from ${sheet.enough} examples on; ${words.nameOf(key)} has ${sheet.total}`
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
          <Filters choices={what} change={choose_} />
          <button
            class="act"
            title="turn the order round"
            aria-label="turn the order round"
            onclick={() => narrow({ order: order === 'asc' ? 'desc' : 'asc' })}>{order === 'asc' ? '↑' : '↓'}</button
          >
          <Filters choices={which} change={choose_} />
          <span class="push"></span>
          {#if stale && sort === 'oddness'}<button
              class="act"
              onclick={() => {
                stale = false;
                sheet.at = 0;
                void sheet.show(query).then(() => reveal(true));
              }}>Sort anew</button
            >{/if}
          <span role="status" class="soft"
            >{#if sheet.total !== null}<span class="num">{sheet.total}</span>
              {sheet.total === 1 ? 'object' : 'objects'}{/if}{#if sheet.chosen.size > 0}, <span class="num">{sheet.chosen.size}</span> chosen{/if}{#if sheet.due > 0}
              · <span class="num">{sheet.due}</span> being looked at{:else if sheet.looking}
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
        name={(value) => (value === null || 'tags' in value ? 'An object' : words.nameOf(value.class))}
      />
    </div>
    <div
      class="objects"
      role="listbox"
      aria-label="objects"
      aria-multiselectable="true"
      aria-activedescendant={sheet.get(sheet.at) ? `object-${sheet.get(sheet.at)!.mark.id}` : undefined}
      tabindex="0"
      bind:this={table}
      bind:clientWidth={width}
      bind:clientHeight={height}
      onscroll={(e) => (top = e.currentTarget.scrollTop)}
    >
      {#if sheet.total === 0}<p class="none">
          No {words.nameOf(key)}
          {filtered ? 'with this answer' : 'has been drawn yet'}.
        </p>{/if}
      <div class="all" style:height="{rowCount * rowHeight + gap}px">
        {#each places as place (place)}
          {@const object = sheet.get(place)}
          {@const mark = object ? edits.now(object) : null}
          <div
            class="cell"
            class:here={place === sheet.at}
            class:gone={object && mark === null}
            role="option"
            id={object ? `object-${object.mark.id}` : undefined}
            tabindex="-1"
            aria-selected={object ? sheet.chosen.has(object.mark.id) : false}
            aria-posinset={place + 1}
            aria-setsize={sheet.total ?? 0}
            style:transform="translate({across + (place % columns) * (side + across)}px, {gap + Math.floor(place / columns) * rowHeight}px)"
            style:width="{side}px"
            style:height="{side + foot}px"
            onclick={(e) => choose(place, e.shiftKey)}
            ondblclick={() => void open(object)}
            onkeydown={() => {}}
          >
            <span class="unseen">{object ? name(object) : 'loading'}</span>
            {#if object}
              <Crop {object} mark={mark ?? fromServer(object.mark)} {edits} {side} {margin} {outline} />
              <div class="foot" aria-hidden="true">
                {#if mark === null}<span>removed</span>
                {:else if mark.class !== object.mark.class}<Marker
                    marker={words.marker(mark.class)}
                    color={words.light(mark.class)}
                    size={10}
                  /><strong>{words.nameOf(mark.class)}</strong>
                {:else}<span class="num">{figure(object)}</span>{#if object.looks_like !== null}<span
                      class="like"
                      title="looks like {words.nameOf(object.looks_like)}"
                      ><Marker marker={words.marker(object.looks_like)} color={words.light(object.looks_like)} size={10} /><span
                        >{words.nameOf(object.looks_like)}?</span
                      ></span
                    >{/if}{/if}
              </div>
            {/if}
          </div>
        {/each}
      </div>
    </div>
    <div class="deckplace">
      <Deck
        {digits}
        {rows}
        named={open1 !== null}
        folded={session.user?.settings.deck_folded ?? false}
        keys={session.user?.settings.keys ?? {}}
        fold={(f) => session.setDeckFolded(f).catch((e: Error) => (edits.message = e.message))}
      />
      {#if finding}<FindClass
          {classes}
          looks={words.looks}
          choose={become}
          done={() => {
            finding = false;
            table?.focus({ preventScroll: true });
          }}
        />{/if}
      {#if written && open1 && first}
        <div class="write">
          <span>{open1.name}</span>
          {#key open1.key}<AnswerEditor
              attribute={open1}
              answer={first.answers[open1.key]}
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
  .cell[aria-selected='true'] .like,
  .cell[aria-selected='true'] .num {
    color: inherit;
  }
  .gone :global(canvas) {
    opacity: 0.25;
  }
  .foot {
    height: 20px;
    padding: 0 6px;
    display: flex;
    gap: 5px;
    align-items: center;
    font-size: 12px;
    white-space: nowrap;
    overflow: hidden;
  }
  .like {
    color: var(--accent-text);
    display: flex;
    gap: 3px;
    align-items: center;
    overflow: hidden;
    margin-left: auto;
  }
  .like span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .deckplace {
    margin: 0 -18px;
    position: relative;
  }
</style>
