<script lang="ts">
  /** The bench as it is seen: head, item, side, ribbon, deck, and what opens over them. */
  import { goto } from '$app/navigation';
  import Deck from '$lib/keys/Deck.svelte';
  import KeyMap from '$lib/keys/KeyMap.svelte';
  import { keepFocus, press, release, type Keys } from '$lib/keys/layers';
  import { session } from '$lib/state/session.svelte';
  import Dialog from '$lib/ui/Dialog.svelte';
  import FindClass from '$lib/words/FindClass.svelte';
  import { X } from '@lucide/svelte';
  import { untrack } from 'svelte';
  import type { Bench } from './bench.svelte';
  import { BenchDeck, shellKeys } from './deck';
  import GoTo from './GoTo.svelte';
  import Head from './Head.svelte';
  import type { Opened } from './opened.svelte';
  import Propose from './Propose.svelte';
  import Ribbon from './Ribbon.svelte';
  import { BenchShell } from './shell.svelte';
  import Side from './Side.svelte';

  let { bench, opened, back, leave }: { bench: Bench; opened: Opened; back: string | null; leave: () => void } = $props();
  let place: HTMLElement | undefined = $state();
  const stage = () => place?.querySelector<HTMLElement>('[role="application"]') ?? null;
  const shell = untrack(() => new BenchShell(bench, stage, back === null ? null : leave));
  const keys = $derived(session.user?.settings.keys ?? {});
  const folded = $derived(session.user?.settings.deck_folded ?? false);

  const deck = $derived(
    new BenchDeck(bench, opened, {
      get board() {
        return shell.board;
      },
      setBoard: (next) => (shell.board = next),
      get shift() {
        return shell.shift;
      },
      write: shell.write
    })
  );
  const digits = $derived(deck.digits);
  const rows = $derived(deck.rows);
  const caps = $derived([...digits.caps, ...rows.flatMap((r) => r.caps)]);
  const board: Keys = {
    get layers() {
      return [shell.fields, shell.pages, opened.surface.keys, shell.base];
    },
    caps: () => caps,
    bound: () => keys,
    say: (message) => bench.say(message)
  };
  const deaf = $derived(bench.nothingLeft || session.ended);

  let keeping: ReturnType<typeof setTimeout> | undefined;
  /** How marks are shown is kept with the account. */
  function keep() {
    const settings = opened.surface.settings();
    clearTimeout(keeping);
    keeping = setTimeout(() => session.set(settings).catch((e: Error) => bench.say(e.message)), 400);
  }
  const Handbook = import('$lib/ui/Handbook.svelte');
  const about = $derived(bench.words.nameOf(opened.hand.mark?.class ?? bench.chosen.active));
</script>

<svelte:window
  onkeydown={(e) => !deaf && press(e, board)}
  onkeyup={(e) => release(e, board)}
  onblur={() => {
    for (const code of ['Space', 'ShiftLeft']) release(new KeyboardEvent('keyup', { code, key: code === 'Space' ? ' ' : 'Shift' }), board);
  }}
/>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="bench" class:folded onmousedown={(e) => keepFocus(e, stage)}>
  <Head {bench} {opened} {shell} {back} {leave} />
  <div class="middle" class:reads={shell.book !== null}>
    <div class="left">
      <div class="place" bind:this={place}>
        {#key opened}<opened.surface.Stage surface={opened.surface} name={opened.packet.item.name} />{/key}
      </div>
      {#if opened.surface.Strip}{#key opened}<opened.surface.Strip surface={opened.surface} />{/key}{:else}<Ribbon {bench} {opened} />{/if}
    </div>
    {#if shell.book !== null}<aside class="book" aria-label="handbook" data-keeps-focus>
        <button class="icon close" aria-label="close the handbook" onclick={() => (shell.book = null)}><X size={16} /></button>
        {#await Handbook then { default: Book }}<Book body={shell.book.body} pdf={shell.book.pdf} {about} />{/await}
        {#if opened.editable}<Propose {opened} project={bench.project} name={shell.wish} />{/if}
      </aside>{/if}
    <Side {bench} {opened} left={shell.toStage} />
  </div>
  <Deck
    {digits}
    {rows}
    named={opened.asking.open !== null || shell.board !== null || bench.page !== null}
    {folded}
    {keys}
    fold={(f) => session.setDeckFolded(f).catch((e: Error) => bench.say(e.message))}
  />
  {#if shell.viewing && opened.surface.Preferences}<opened.surface.Preferences surface={opened.surface} {keep} />{/if}
  {#if shell.going}<GoTo
      {bench}
      {opened}
      done={() => {
        shell.going = false;
        shell.toStage();
      }}
    />{/if}
  {#if shell.finding}<FindClass
      classes={bench.words.drawable}
      looks={bench.words.looks}
      choose={(key) => opened.choose(key)}
      done={() => {
        shell.finding = false;
        shell.toStage();
      }}
      propose={opened.editable ? (name) => void shell.propose(name) : undefined}
    />{/if}
  {#if shell.map}<KeyMap {caps} others={[...shellKeys, ...opened.surface.keyMap]} {keys} close={() => (shell.map = false)} />{/if}
  {#if bench.nothingLeft}
    <Dialog label="all done" close={() => (bench.nothingLeft = false)}>
      <h2>{opened.mode === 'review' ? 'Nothing waits for your review' : 'All done here'}</h2>
      <p class="mb-3">There is no further item for you in this project right now.</p>
      <button class="act main" onclick={() => goto('/')}>My work</button>
      {#if bench.lastSubmitted !== null}<button class="act" onclick={() => bench.takeBack()}>Take the last submit back</button>{/if}
    </Dialog>
  {/if}
</div>

<style>
  .bench {
    display: grid;
    grid-template-rows: 40px minmax(0, 1fr) auto;
    height: 100vh;
    position: relative;
  }
  .middle {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 280px;
    min-height: 0;
    position: relative;
  }
  .middle.reads {
    grid-template-columns: minmax(0, 1fr) minmax(280px, 30%) 280px;
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
  .icon {
    padding: 5px;
    border-radius: 4px;
    cursor: pointer;
  }
  /* beside the item, not over it: both are read together */
  .book {
    background: var(--panel);
    border-left: 1px solid var(--line);
    overflow: auto;
    min-height: 0;
    padding: 14px 18px;
  }
  .close {
    float: right;
    position: sticky;
    top: 0;
    z-index: 2;
    background: var(--panel);
  }
  @media (max-width: 1100px) {
    .middle {
      grid-template-columns: minmax(0, 1fr) 230px;
    }
    .middle.reads {
      grid-template-columns: minmax(0, 1fr) minmax(240px, 30%) 230px;
    }
  }
</style>
