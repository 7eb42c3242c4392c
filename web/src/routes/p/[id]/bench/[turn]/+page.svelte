<script lang="ts">
  /** The bench: stage, ledger, ribbon, deck. Labelling and reviewing happen here. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { Bench } from '$lib/bench/bench.svelte';
  import Deck from '$lib/bench/Deck.svelte';
  import type { Cap } from '$lib/bench/caps';
  import { digitRow, letterRows, others } from '$lib/bench/deck';
  import GoTo from '$lib/bench/GoTo.svelte';
  import Ledger from '$lib/bench/Ledger.svelte';
  import Propose from '$lib/bench/Propose.svelte';
  import Ribbon from '$lib/bench/Ribbon.svelte';
  import Stage from '$lib/bench/Stage.svelte';
  import { toolbox, type StageTool } from '$lib/bench/tools';
  import { bounds, shapeOf } from '$lib/bench/shapes';
  import type { Mark } from '$lib/bench/types';
  import { stepZoom } from '$lib/bench/view';
  import { keyName, placeOf } from '$lib/bench/keys';
  import ViewPanel from '$lib/bench/ViewPanel.svelte';
  import FindClass from '$lib/bench/FindClass.svelte';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import { BookOpen, Contrast, Keyboard, Redo2, Undo2, X } from '@lucide/svelte';
  import { onMount, tick } from 'svelte';

  const project = Number(page.params.id);
  const bench = new Bench(project, session.user!.id, (turn) => {
    // the address follows the item, so that a reload comes back to it
    if (Number(page.params.turn) !== turn) replaceState(`/p/${project}/bench/${turn}`, {});
  });
  const tools = toolbox(bench);
  const tool: StageTool = $derived(
    bench.tool === 'draw'
      ? bench.editable
        ? tools.shapes[bench.shape]
        : tools.modes.pick
      : bench.editable || bench.tool === 'hand'
        ? tools.modes[bench.tool]
        : tools.modes.pick
  );
  // what a tool has begun is plain state of its own: the deck looks at it again after every press on the stage
  let drawn = $state(0);
  let shift = $state(false);
  let finding = $state(false);
  let story = $state<{ action: string; by: string; at: string; revision: number }[] | null>(null);

  let ready = $state(false);
  let error = $state('');
  let stage: Stage | undefined = $state();
  let board = $state<number | null>(null);
  let map = $state(false);
  let returning = $state(false);
  let reason = $state('');
  let pinText = $state('');
  let book = $state.raw<Schemas['Handbook'] | null>(null);
  let wish = $state('');
  let BookView = $state<typeof import('$lib/ui/Handbook.svelte').default | null>(null);
  let held = 0;
  let viewing = $state(false);
  let going = $state(false);
  /** the list this item was opened from, at the spot it was left at */
  const from = page.url.searchParams.get('back');
  const back = from !== null && /^\/p\/\d+\/(sheet|sweep|items)(\?|$)/.test(from) ? from : null;
  const wanted = page.url.searchParams.get('mark');
  const keys = $derived(session.user?.settings.keys ?? {});
  const folded = $derived(session.user?.settings.deck_folded ?? false);

  onMount(() => {
    const own = session.user?.settings ?? {};
    bench.opacity = { all: own.mask_opacity ?? bench.opacity.all, hand: own.hand_opacity ?? bench.opacity.hand };
    bench.loupe = own.loupe ?? true;
    bench.tone = { brightness: own.brightness ?? 1, contrast: own.contrast ?? 1, gamma: own.gamma ?? 1 };
    bench.shade = own.shade_rest ?? false;
    bench.weight = own.line_weight ?? 1;
    bench.names = own.mark_names ?? false;
    // from a list one comes to look: nobody loses the item by that
    bench.start(Number(page.params.turn), back !== null).then(
      async () => {
        ready = true;
        await tick();
        if (wanted !== null && bench.marks.some((m) => m.id === wanted)) {
          bench.select(wanted);
          bench.tool = 'pick';
          bench.toObject();
        }
      },
      (e) => (error = (e as Error).message)
    );
    const looking = setInterval(() => document.visibilityState === 'visible' && void bench.look(), 20_000);
    return () => {
      clearInterval(looking);
      bench.outbox.close();
    };
  });
  $effect(() => {
    if (session.signIns > 0) bench.outbox.wake();
  });

  const deckPage = {
    get board() {
      return board;
    },
    setBoard: (next: number | null) => (board = next),
    returning: () => void startReturn(),
    nothing: () => void bench.submit(true),
    get shift() {
      return shift;
    },
    get tool() {
      return tool;
    },
    find: () => (finding = true),
    refresh: () => {
      stage?.refresh();
      drawn++;
    },
    history: () => void showHistory(),
    asking: () => void write('ask'),
    parking: () => void write('park')
  };
  /** what is being written: a question, or why the item is set aside */
  let writing = $state<'ask' | 'park' | null>(null);
  let words = $state('');
  async function write(what: 'ask' | 'park') {
    bench.page = false;
    writing = what;
    await tick();
    document.getElementById('words')?.focus();
  }
  async function written() {
    const [what, text] = [writing, words.trim()];
    if (text === '') return;
    writing = null;
    if (what === 'park') {
      await bench.park(text);
      if (bench.message === '') words = '';
    } else if (await bench.inquire(text)) words = '';
  }
  async function showHistory() {
    const mark = bench.selected;
    if (mark === null) return;
    try {
      const { data } = await ask(
        api.GET('/projects/{project}/turns/{turn}/marks/{mark}/history', { params: { path: { ...bench.path.params.path, mark } } })
      );
      story = data.map((h) => ({ action: h.action, by: h.by ?? 'import', at: h.at, revision: h.revision }));
    } catch (e) {
      bench.message = (e as Error).message;
    }
  }
  const digits = $derived(ready ? digitRow(bench, deckPage) : { name: '', caps: [] });
  const rows = $derived.by(() => {
    void drawn;
    return ready ? letterRows(bench, deckPage) : [];
  });

  async function startReturn() {
    returning = true;
    await tick();
    document.getElementById('reason')?.focus();
  }
  async function openBook() {
    if (book !== null) {
      book = null;
      return;
    }
    const [handbook, view] = await Promise.all([
      ask(api.GET('/projects/{project}/handbook', { params: { path: { project } } })),
      import('$lib/ui/Handbook.svelte')
    ]);
    BookView = view.default;
    book = handbook;
  }

  function stepBack() {
    if (map) map = false;
    else if (viewing) viewing = false;
    else if (going) going = false;
    else if (finding) finding = false;
    else if (story) story = null;
    else if (bench.proposal) bench.proposal = null;
    else if (returning) returning = false;
    else if (writing !== null) writing = null;
    else if (bench.pinAt) bench.pinAt = null;
    else if (board !== null) board = null;
    else if (bench.question !== null) bench.question = null;
    else if (bench.page) bench.page = false;
    else if (stage?.cancel()) drawn++;
    else if (bench.point !== null) bench.point = null;
    else if (bench.selected !== null) bench.select(null);
    else if (book !== null) book = null;
    else if (bench.message !== '') bench.message = '';
    else if (back !== null) void leave();
  }

  /** Back to the list this item was opened from, once what was done here is saved. */
  async function leave() {
    await Promise.race([bench.outbox.flush(), new Promise((done) => setTimeout(done, 2000))]);
    await goto(back!);
  }

  const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  function key(e: KeyboardEvent) {
    if (!ready || bench.nothingLeft || session.ended) return;
    const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement || e.target instanceof HTMLSelectElement;
    if (e.code === 'Escape') {
      if (typing) (e.target as HTMLElement).blur();
      stepBack();
      return e.preventDefault();
    }
    if (typing) return;
    if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ') {
      if (e.shiftKey) bench.redo();
      else bench.undo();
      return e.preventDefault();
    }
    if ((e.ctrlKey || e.metaKey) && (e.code === 'KeyC' || e.code === 'KeyV')) {
      // text marked on the page is copied as text
      if (e.code === 'KeyC' && (getSelection()?.toString() ?? '') !== '') return;
      if (e.code === 'KeyC') bench.copy();
      else bench.paste();
      return e.preventDefault();
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === 'Shift') shift = true;
    if (e.code === 'Space') {
      stage?.holdSpace(true);
      return e.preventDefault();
    }
    if (e.key === '?') map = !map;
    else if (e.key === '/') finding = true;
    else if (e.code === 'End') going = !going;
    else if (e.code === 'Delete' || e.code === 'Backspace') {
      if (!stage?.takeBack()) bench.remove();
      drawn++;
    } else if (arrows[e.code]) {
      const [x, y] = arrows[e.code]!;
      // held down it gathers way; marks in hand move by the pixel
      held = e.repeat ? held + 1 : 0;
      const nudging = bench.inHand.length > 0 && bench.editable && !bench.painted && !stage?.isBusy();
      const by = (e.shiftKey ? 10 : 1) * (nudging ? 1 : Math.max(1, 1 / bench.view.scale) * Math.min(24, 1 + held));
      if (nudging) bench.nudge({ x: x * by, y: y * by });
      else stage?.step({ x: x * by, y: y * by });
    } else if (e.code === 'Period' || e.code === 'Comma') stage?.press(e.code === 'Comma', e.shiftKey);
    else if (e.key === '+' || e.key === '-')
      bench.view = stepZoom(bench.view, { x: bench.stage.width / 2, y: bench.stage.height / 2 }, e.key === '+' ? 1 : -1);
    else if (e.code === 'Enter') {
      if (e.target instanceof HTMLButtonElement) return;
      if (bench.proposal) bench.takeProposal();
      else if (bench.question !== null) bench.openNext(false);
      else if (bench.page) bench.page = false;
      else if (stage?.finish()) drawn++;
      else if (bench.mode === 'label') void bench.submit(false);
    } else if (e.code === 'Tab' && bench.marks.length > 0 && (e.target === document.body || (e.target as HTMLElement).closest('.stage'))) {
      const at = bench.marks.findIndex((m) => m.id === bench.selected);
      bench.select(bench.marks[(at + (e.shiftKey ? bench.marks.length - 1 : 1)) % bench.marks.length]!.id);
      bench.tool = 'pick';
    } else {
      const code = placeOf(e.code, keys);
      const cap: Cap | undefined = [...digits.caps, ...rows.flatMap((r) => r.caps)].find((c) => c.code === code);
      if (!cap || (e.repeat && !cap.again)) return;
      if (cap.off) bench.message = `${cap.word}: ${cap.off}`;
      else cap.press();
    }
    e.preventDefault();
  }

  const saved = $derived.by(() => {
    if (bench.outbox.status === 'offline') return { word: `offline, ${bench.outbox.waiting} waiting`, sign: '○' };
    if (bench.outbox.status === 'signed out') return { word: `signed out, ${bench.outbox.waiting} waiting`, sign: '○' };
    return bench.outbox.waiting > 0 ? { word: 'saving', sign: '◐' } : { word: 'saved', sign: '●' };
  });
  const size = (m: Mark) => {
    const b = bounds(shapeOf(m));
    return `${Math.round(b.width)} × ${Math.round(b.height)}`;
  };
  const canTakeUp = $derived(
    ready &&
      bench.mode === 'look' &&
      !bench.packet.turn.held_by &&
      (bench.packet.turn.state === 'waiting' || bench.packet.turn.state === 'returned' || bench.packet.turn.state === 'open')
  );
  const about = $derived(bench.nameOf(bench.mark?.class ?? bench.active));
</script>

<svelte:head><title>{ready ? bench.packet.item.name : 'Bench'} · Skeno</title></svelte:head>
<svelte:window
  onkeydown={key}
  onkeyup={(e) => {
    if (e.code === 'Space') stage?.holdSpace(false);
    if (e.key === 'Shift') shift = false;
  }}
  onblur={() => {
    stage?.holdSpace(false);
    shift = false;
  }}
/>

{#if error !== ''}
  <main class="end">
    <p>{error}</p>
    <a class="act" href="/">My work</a>
  </main>
{:else if ready}
  <div class="bench" class:folded>
    <header>
      <nav class="crumbs" aria-label="where you are">
        <a href="/">Skeno</a> › <a href="/p/{project}{bench.mode === 'review' ? '/check' : ''}">{bench.packet.project.name}</a> ›
        <span>{bench.packet.item.set || '(top)'}</span>
        › <strong>{bench.packet.item.name}</strong>
      </nav>
      {#if back}<a
          class="act"
          href={back}
          onclick={(e) => {
            e.preventDefault();
            void leave();
          }}>back to the list</a
        >{/if}
      <span class="soft"
        >{#if bench.queue}<button
            class="where"
            title="go to an item by number or name (End)"
            aria-expanded={going}
            onclick={() => (going = !going)}
            ><span class="num">{bench.queue.place}</span> of <span class="num">{bench.queue.total}</span></button
          >{/if}</span
      >
      {#if bench.mode === 'review'}<span class="mode"
          >review of {bench.packet.turn.labeller?.name ?? 'import'}{bench.packet.turn.round > 1
            ? `, round ${bench.packet.turn.round}`
            : ''}</span
        >
      {:else if bench.mode === 'look'}<span class="mode"
          >only to look at: {bench.packet.turn.held_by ? `open with ${bench.packet.turn.held_by.name}` : bench.packet.turn.state}</span
        >{#if canTakeUp}<button class="act" onclick={() => bench.takeUp()}
            >{bench.packet.turn.stage === 'label' ? 'Label it' : 'Review it'}</button
          >{/if}
      {:else if bench.packet.turn.round > 1}<span class="mode">round {bench.packet.turn.round}</span>{/if}
      <span class="push"></span>
      <button class="icon" disabled={!bench.canUndo} aria-label="undo" title="undo (Ctrl Z)" onclick={() => bench.undo()}
        ><Undo2 size={16} strokeWidth={1.75} /></button
      >
      <button class="icon" disabled={!bench.canRedo} aria-label="redo" title="redo (Ctrl Shift Z)" onclick={() => bench.redo()}
        ><Redo2 size={16} strokeWidth={1.75} /></button
      >
      <button class="icon" aria-label="view" title="how marks are shown" aria-pressed={viewing} onclick={() => (viewing = !viewing)}
        ><Contrast size={16} strokeWidth={1.75} /></button
      >
      <button class="icon" aria-label="key map" title="key map (?)" onclick={() => (map = !map)}
        ><Keyboard size={16} strokeWidth={1.75} /></button
      >
      <span class="saved" role="status" aria-label="saved state" data-state={bench.outbox.status}>{saved.sign} {saved.word}</span>
      <button class="act" aria-pressed={book !== null} onclick={openBook}><BookOpen size={15} strokeWidth={1.75} />Handbook</button>
      {#if bench.mode === 'review'}
        <button class="act main" disabled={bench.busy || bench.fresh} onclick={() => bench.decide('accept', '')}>Accept</button>
      {:else if bench.mode === 'label'}
        <button class="act main" disabled={bench.busy || bench.fresh} onclick={() => bench.submit(false)}
          >{bench.doubted ? 'Submit anyway' : 'Submit'}</button
        >
      {:else if bench.packet.turn.can_take_back}<button class="act main" onclick={() => bench.takeBack()}>Take back</button>{/if}
    </header>
    <div class="middle">
      <div class="left">
        <div class="place">
          <Stage {bench} {tool} drawn={() => drawn++} bind:this={stage} />
        </div>
        <Ribbon {bench} />
      </div>
      <div class="side">
        {#if bench.message !== ''}<div class="say" role="alert">
            {bench.message}<button aria-label="dismiss" onclick={() => (bench.message = '')}><X size={14} /></button>
          </div>{/if}
        {#if bench.outbox.unkept !== ''}<div class="say" role="alert">
            This browser can't keep edits over a reload ({bench.outbox.unkept}). They still go to the server: wait for “saved” before you
            close the page.
          </div>{/if}
        {#each bench.outbox.held as h (h.turn)}
          <div class="say" role="alert">
            {h.count}
            {h.count === 1 ? 'edit' : 'edits'} of {h.turn === bench.packet.turn.id ? 'this item' : 'another item'} could not be delivered: {h.why}
            <div>
              <button class="act" onclick={() => bench.outbox.again(h.turn)}>try again</button>
              <button class="act" onclick={() => bench.outbox.drop(h.turn)}>let them go</button>
            </div>
          </div>
        {/each}
        {#each bench.conflicts as c (c.id)}
          <div class="say" role="alert">
            {c.name} was changed elsewhere meanwhile.
            {#if c.theirs && c.mine}<div class="num soft">
                there {size(c.theirs)}, yours {size(c.mine)}
              </div>{/if}
            <div>
              <button class="act" onclick={() => bench.settle(c, true)}>{c.mine ? 'use mine' : 'remove it'}</button>
              <button class="act" onclick={() => bench.settle(c, false)}>keep the other</button>
            </div>
          </div>
        {/each}
        {#if bench.packet.turn.note !== '' && bench.mode === 'label'}<p class="note soft">{bench.packet.turn.note}</p>{/if}
        {#if bench.packet.decisions.length > 0 || bench.packet.pins.length > 0}
          <section class="came" aria-label="what was said">
            {#each bench.packet.decisions as d, i (i)}<p>
                <strong>{d.decision === 'return' ? 'returned' : 'accepted'}</strong> by {d.by}{d.reason ? `: ${d.reason}` : ''}
              </p>{/each}
            {#each bench.packet.pins as pin, i (pin.id)}
              <p class="pin">
                <span class="num">{i + 1}</span><button
                  class="link"
                  onclick={() => {
                    if (pin.mark) bench.select(pin.mark);
                    bench.view = {
                      ...bench.view,
                      x: bench.stage.width / 2 - pin.x * bench.view.scale,
                      y: bench.stage.height / 2 - pin.y * bench.view.scale
                    };
                  }}>{pin.text}</button
                >{#if pin.mine && bench.mode === 'review' && pin.turn_id === bench.packet.turn.id}<button
                    aria-label="remove pin {i + 1}"
                    onclick={() => bench.unpin(pin.id)}><X size={13} /></button
                  >{/if}
              </p>
            {/each}
          </section>
        {/if}
        {#if writing !== null}
          <form
            class="say"
            onsubmit={(e) => {
              e.preventDefault();
              void written();
            }}
          >
            <label for="words"
              >{writing === 'park'
                ? 'Park: why is it set aside?'
                : `Ask about ${bench.mark ? bench.label(bench.mark) : 'this picture'}: manager and reviewers answer here`}</label
            >
            <textarea id="words" class="field" rows="3" maxlength={writing === 'park' ? 1000 : 2000} bind:value={words} required></textarea>
            <button class="act main">{writing === 'park' ? 'Park' : 'Ask'}</button>
            <button type="button" class="act" onclick={() => (writing = null)}>Not now</button>
          </form>
        {/if}
        {#if bench.packet.turn.parked_because !== ''}<p class="note soft">parked: {bench.packet.turn.parked_because}</p>{/if}
        {#if bench.packet.questions.length > 0}
          <section class="came" aria-label="questions">
            {#each bench.packet.questions as q (q.id)}
              <p>
                <strong>{q.by.split(' ')[0]}:</strong>
                {q.text}
                {#if q.answer !== ''}<br /><strong>{q.answered_by?.split(' ')[0]}:</strong> {q.answer}{:else}<span class="soft">
                    (no answer yet)</span
                  >{/if}
              </p>
            {/each}
          </section>
        {/if}
        {#if bench.proposal}
          <div class="say" role="status">
            {bench.proposal.what}. Enter takes it, Esc leaves it.
            <div>
              <button class="act main" onclick={() => bench.takeProposal()}>Take it</button>
              <button class="act" onclick={() => (bench.proposal = null)}>Leave it</button>
            </div>
          </div>
        {/if}
        {#if bench.air}
          <div class="say" role="status">
            air round the object: {Object.entries(bench.air.sides)
              .map(
                ([side, a]) =>
                  `${side} ${a.air === null ? 'unclear' : `${a.air} px`}${a.verdict === 'loose' ? ' (too much)' : a.verdict === 'cuts' ? ' (cuts it)' : ''}`
              )
              .join(', ')}
          </div>
        {/if}
        {#if story}
          <section class="came" aria-label="history of the mark">
            {#each story as h (h.revision)}<p>
                <span class="num soft">{new Date(h.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}</span>
                {h.action} by {h.by}
              </p>{/each}
            <button class="act" onclick={() => (story = null)}>Close</button>
          </section>
        {/if}
        {#if bench.pinAt}
          <form
            class="say"
            onsubmit={async (e) => {
              e.preventDefault();
              await bench.pin(pinText);
              pinText = '';
            }}
          >
            <label for="pin"
              >pin at <span class="num">{Math.round(bench.pinAt.x)}, {Math.round(bench.pinAt.y)}</span>: what is wrong here?</label
            >
            <!-- svelte-ignore a11y_autofocus -->
            <input id="pin" class="field" maxlength="1000" autofocus bind:value={pinText} required />
            <button class="act main">Pin</button>
          </form>
        {/if}
        {#if returning}
          <form
            class="say"
            onsubmit={async (e) => {
              e.preventDefault();
              returning = false;
              await bench.decide('return', reason);
              if (bench.message === '') reason = '';
            }}
          >
            <label for="reason">Return to {bench.packet.turn.labeller?.name ?? 'the labeller'}: what should be done?</label>
            <textarea id="reason" class="field" rows="3" maxlength="2000" bind:value={reason}></textarea>
            <button class="act main">Return</button> <button type="button" class="act" onclick={() => (returning = false)}>Not now</button>
          </form>
        {/if}
        {#if bench.mode === 'label'}
          <div class="todo" role="status" aria-label="still to do">
            {#if bench.todo.length === 0}<span class="soft"
                >{bench.marks.length === 0 ? 'nothing is marked yet' : 'nothing left to do here'}</span
              >
            {:else}<span class="soft">to do</span>{#each bench.todo as t (t.word)}<button onclick={t.lead}
                  ><span class="num">{t.count}</span> {t.word}</button
                >{/each}{/if}
          </div>
        {/if}
        <div class="ledgerplace"><Ledger {bench} /></div>
      </div>
      {#if book !== null && BookView}<aside class="book" aria-label="handbook">
          <button class="icon close" aria-label="close the handbook" onclick={() => (book = null)}><X size={16} /></button><BookView
            body={book.body}
            pdf={book.pdf}
            {about}
          />{#if bench.editable}<Propose {bench} name={wish} />{/if}
        </aside>{/if}
    </div>
    <Deck
      {digits}
      {rows}
      named={bench.openQuestion !== null || board !== null || bench.page}
      {folded}
      {keys}
      fold={(f) => session.setDeckFolded(f)}
    />
    {#if viewing}<ViewPanel {bench} />{/if}
    {#if going}<GoTo {bench} done={() => (going = false)} />{/if}
    {#if finding}<FindClass
        classes={bench.drawable}
        looks={bench.looks}
        choose={(key) => bench.choose(key)}
        done={() => (finding = false)}
        propose={bench.editable
          ? async (name) => {
              finding = false;
              if (book === null) await openBook();
              wish = name;
            }
          : undefined}
      />{/if}
    {#if map}
      <div class="map" role="dialog" aria-label="key map">
        <h2>Keys now</h2>
        <dl>
          {#each [...digits.caps, ...rows.flatMap((r) => r.caps)] as c (c.code)}<div>
              <dt><kbd>{keyName(c.code, keys)}</kbd></dt>
              <dd>{c.word}</dd>
            </div>{/each}
          {#each others as o (o.keys)}<div>
              <dt><kbd>{o.keys}</kbd></dt>
              <dd>{o.what}</dd>
            </div>{/each}
        </dl>
        <button class="act" onclick={() => (map = false)}>Close</button>
      </div>
    {/if}
    {#if bench.nothingLeft}
      <div class="map" role="dialog" aria-label="all done">
        <h2>{bench.mode === 'review' ? 'Nothing waits for your review' : 'All done here'}</h2>
        <p class="mb-3">There is no further item for you in this project right now.</p>
        <button class="act main" onclick={() => goto('/')}>My work</button>
        {#if bench.lastSubmitted !== null}<button class="act" onclick={() => bench.takeBack()}>Take the last submit back</button>{/if}
      </div>
    {/if}
  </div>
{:else}<p class="unseen" role="status">opening the item</p>{/if}

<style>
  .bench {
    display: grid;
    grid-template-rows: 40px minmax(0, 1fr) auto;
    height: 100vh;
    position: relative;
  }
  header {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 0 12px;
    background: var(--panel);
    border-bottom: 1px solid var(--line);
    font-size: 13.5px;
    min-width: 0;
  }
  .crumbs {
    color: var(--soft);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
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
  .where {
    cursor: pointer;
    text-decoration: underline;
    text-decoration-color: var(--edge);
    text-underline-offset: 3px;
  }
  .mode {
    color: var(--accent-text);
    white-space: nowrap;
  }
  .push {
    flex: 1;
  }
  .icon {
    padding: 5px;
    border-radius: 4px;
    cursor: pointer;
  }
  .icon:disabled {
    opacity: 0.35;
    cursor: default;
  }
  .saved {
    min-width: 68px;
    white-space: nowrap;
    color: var(--soft);
  }
  .saved[data-state='offline'],
  .saved[data-state='signed out'] {
    color: var(--accent-text);
  }
  header .act {
    padding: 3px 11px;
    white-space: nowrap;
  }
  .middle {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 280px;
    min-height: 0;
    position: relative;
  }
  .left {
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    min-width: 0;
    min-height: 0;
  }
  .place {
    min-height: 0;
    min-width: 0;
  }
  .side {
    display: flex;
    flex-direction: column;
    min-height: 0;
    background: var(--panel);
    border-left: 1px solid var(--line);
  }
  .todo {
    display: flex;
    flex-wrap: wrap;
    gap: 3px 10px;
    padding: 5px 12px;
    border-bottom: 1px solid var(--line);
    font-size: 12.5px;
    flex: none;
  }
  .todo button {
    color: var(--accent-text);
    cursor: pointer;
    text-decoration: underline;
    text-decoration-color: color-mix(in srgb, var(--accent-text) 45%, transparent);
    text-underline-offset: 2px;
  }
  .ledgerplace {
    flex: 1;
    min-height: 0;
  }
  .say {
    margin: 6px 8px 0;
    padding: 7px 10px;
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
    border-radius: 4px;
    font-size: 13px;
    display: grid;
    gap: 5px;
    grid-template-columns: minmax(0, 1fr);
    overflow-wrap: anywhere;
    position: relative;
  }
  .say > button[aria-label='dismiss'] {
    position: absolute;
    top: 5px;
    right: 5px;
    cursor: pointer;
  }
  .note {
    padding: 8px 12px 0;
    font-size: 13px;
  }
  .came {
    padding: 8px 12px 6px;
    border-bottom: 1px solid var(--line);
    font-size: 13px;
    max-height: 34%;
    overflow: auto;
    flex: none;
  }
  .pin {
    display: flex;
    gap: 7px;
    align-items: baseline;
  }
  .pin .num {
    color: var(--accent-text);
    font-weight: 600;
  }
  .link {
    text-align: left;
    cursor: pointer;
    flex: 1;
  }
  .book {
    position: absolute;
    right: 280px;
    top: 0;
    bottom: 0;
    width: min(440px, 60%);
    background: var(--panel);
    border-left: 1px solid var(--line);
    box-shadow: -6px 0 18px rgb(0 0 0 / 0.3);
    overflow: auto;
    padding: 14px 18px;
  }
  .close {
    float: right;
    position: sticky;
    top: 0;
    z-index: 2;
    background: var(--panel);
  }
  .map {
    position: absolute;
    inset: 70px auto auto 50%;
    transform: translateX(-50%);
    width: min(640px, 90vw);
    background: var(--panel);
    border: 1px solid var(--edge);
    border-radius: 4px;
    box-shadow: 0 10px 40px rgb(0 0 0 / 0.4);
    padding: 18px 22px;
    z-index: 5;
  }
  .map h2 {
    margin-bottom: 8px;
  }
  dl {
    columns: 2;
    margin-bottom: 12px;
  }
  dl > div {
    display: grid;
    grid-template-columns: 120px 1fr;
    break-inside: avoid;
    padding: 1px 0;
  }
  .end {
    max-width: 460px;
    margin: 18vh auto;
    display: grid;
    gap: 12px;
    justify-items: start;
  }
  @media (max-width: 1100px) {
    .middle {
      grid-template-columns: minmax(0, 1fr) 230px;
    }
    .book {
      right: 230px;
    }
  }
</style>
