<script lang="ts">
  /** The bench: stage, ledger, ribbon, deck. Labelling and reviewing happen here. */
  import { goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { Bench } from '$lib/bench/bench.svelte';
  import BenchView from '$lib/bench/BenchView.svelte';
  import { session } from '$lib/state/session.svelte';
  import { onMount, tick } from 'svelte';

  const project = Number(page.params.id);
  let shown = Number(page.params.turn);
  const bench = new Bench(
    project,
    session.user!.id,
    () => session.user?.settings ?? {},
    (turn) => {
      // the address follows the item, so that a reload comes back to it
      if (shown !== turn) replaceState(`/p/${project}/bench/${turn}`, {});
      shown = turn;
    }
  );
  let ready = $state(false);
  let error = $state('');
  /** the list this item was opened from, at the spot it was left at */
  const from = page.url.searchParams.get('back');
  const back = from !== null && /^\/p\/\d+\/(sheet|sweep|items)(\?|$)/.test(from) ? from : null;
  const wanted = page.url.searchParams.get('mark');
  const place = page.url.searchParams.get('place');

  /** What the bench is made of is kept, so that it can be loaded again without a network. */
  async function keepFiles() {
    if (!('serviceWorker' in navigator)) return;
    const { active } = await navigator.serviceWorker.ready;
    active?.postMessage({ keep: performance.getEntriesByType('resource').map((r) => r.name) });
  }

  onMount(() => {
    // from a list one comes to look: nobody loses the item by that
    bench.start(Number(page.params.turn), back !== null).then(
      async () => {
        ready = true;
        void keepFiles();
        await tick();
        const { opened } = bench;
        const mark = wanted === null ? undefined : opened?.editor.marks.get(wanted);
        // the very place first: there the mark is as it was listed
        if (place !== null && /^\d+$/.test(place)) await opened?.surface.go?.(Number(place));
        if (!opened || !mark) return;
        opened.hand.select(mark.id);
        opened.surface.picking();
        opened.surface.show(mark);
      },
      (e: Error) => (error = e.message)
    );
    const looking = setInterval(() => document.visibilityState === 'visible' && void bench.look(), 20_000);
    return () => {
      clearInterval(looking);
      bench.close();
    };
  });
  $effect(() => {
    if (session.signIns > 0) bench.outbox.wake();
  });

  /** Back to the list this item was opened from, once what was done here is saved; what can't be waits in the browser and goes out later. */
  async function leave() {
    const { opened } = bench;
    if (opened) await bench.outbox.arrived(project, opened.packet.turn.id, 2000).catch(() => {});
    await goto(back!);
  }
</script>

<svelte:head><title>{bench.opened ? bench.opened.packet.item.name : 'Bench'} · Skeno</title></svelte:head>

{#if error !== ''}
  <main class="end">
    <p role="alert">{error}</p>
    <a class="act" href="/">My work</a>
  </main>
{:else if ready && bench.opened}<BenchView {bench} opened={bench.opened} {back} {leave} />
{:else}<p class="unseen" role="status">opening the item</p>{/if}

<style>
  .end {
    max-width: 460px;
    margin: 18vh auto;
    display: grid;
    gap: 12px;
    justify-items: start;
  }
</style>
