<script lang="ts">
  /** The pages of the document: which is in hand, what lies on each, and which lack an answer. */
  import GoForm from '../flat/GoForm.svelte';
  import type { Surface } from '../kind';
  import type { DocumentSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as DocumentSurface);
  let strip: HTMLElement | undefined = $state();
  /** px from one page to the next */
  const STEP = 56;
  /** pages beside what is in sight that are there too */
  const BESIDE = 4;
  let left = $state(0);
  let width = $state(0);
  const first = $derived(Math.max(0, Math.floor(left / STEP) - BESIDE));
  const last = $derived(Math.min(own.pagesCount - 1, Math.ceil((left + width) / STEP) + BESIDE));
  const shown = $derived(Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i));
  $effect(() => {
    const at = own.page * STEP;
    // the small copies round it are asked for when the page itself is there, and never before it
    if (!strip || !(own.book.ready || own.book.failed)) return;
    if (at < strip.scrollLeft + STEP || at > strip.scrollLeft + strip.clientWidth - 2 * STEP)
      strip.scrollLeft = at - strip.clientWidth / 2 + STEP / 2;
  });

  function go(wanted: string): string {
    const page = Number(wanted);
    if (!Number.isInteger(page) || page < 1 || page > own.pagesCount) return `a page from 1 to ${own.pagesCount}`;
    own.turn(page - 1, true);
    return '';
  }
  const about = (page: number) => {
    const marks = own.count(page);
    return [
      `page ${page + 1}`,
      ...(marks > 0 ? [`${marks} ${marks === 1 ? 'mark' : 'marks'}`] : []),
      ...(own.open.has(page) ? ['an answer is missing'] : [])
    ].join(', ');
  };
</script>

{#if own.asking}
  <GoForm label="page" placeholder={String(own.page + 1)} numeric {go} close={() => (own.asking = false)} />
{/if}
<nav class="pages" aria-label="pages" bind:this={strip} bind:clientWidth={width} onscroll={() => (left = strip?.scrollLeft ?? 0)}>
  <div class="row" style:width="{own.pagesCount * STEP}px">
    {#each shown as page (page)}
      <button
        class="page"
        class:open={own.open.has(page)}
        style:left="{page * STEP}px"
        aria-current={page === own.page ? 'true' : undefined}
        aria-label={about(page)}
        title={about(page)}
        onclick={() => own.turn(page, true)}
      >
        <img src={own.book.address(page, 'thumb')} alt="" loading="lazy" fetchpriority="low" draggable="false" />
        <span class="num at">{page + 1}</span>
        {#if own.count(page) > 0}<span class="num marks">{own.count(page)}</span>{/if}
        {#if own.open.has(page)}<span class="lacks" aria-hidden="true">?</span>{/if}
      </button>
    {/each}
  </div>
</nav>

<style>
  .pages {
    overflow-x: auto;
    scrollbar-width: thin;
    background: var(--sunk);
    border-top: 1px solid var(--line);
    padding: 5px 10px;
    height: 80px;
  }
  .row {
    position: relative;
    height: 66px;
  }
  .page {
    position: absolute;
    top: 0;
    width: 50px;
    height: 66px;
    border: 2px solid transparent;
    border-radius: 3px;
    cursor: pointer;
    opacity: 0.72;
    background: #fdfcf8;
    overflow: hidden;
  }
  .page:hover,
  .page[aria-current] {
    opacity: 1;
  }
  .page[aria-current] {
    border-color: var(--accent);
  }
  img {
    height: 100%;
    width: 100%;
    object-fit: contain;
    display: block;
  }
  .at,
  .marks,
  .lacks {
    position: absolute;
    font-size: 10.5px;
    line-height: 14px;
    padding: 0 4px;
    border-radius: 3px;
    background: rgba(23, 27, 26, 0.82);
    color: #e9e4d8;
  }
  .at {
    left: 1px;
    bottom: 1px;
  }
  .marks {
    right: 1px;
    bottom: 1px;
    color: #6fc3a8;
  }
  .lacks {
    right: 1px;
    top: 1px;
    background: #f0845a;
    color: #171b1a;
    font-weight: 700;
  }
</style>
