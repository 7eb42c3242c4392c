<script lang="ts">
  /** The pages of the document: which is in hand, what lies on each, and which lack an answer. */
  import type { Surface } from '../kind';
  import type { DocumentSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as DocumentSurface);
  let strip: HTMLElement | undefined = $state();
  let wanted = $state('');
  let fault = $state('');
  $effect(() => {
    void own.page;
    strip?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest', inline: 'center' });
  });

  function go(e: SubmitEvent) {
    e.preventDefault();
    const page = Number(wanted);
    if (!Number.isInteger(page) || page < 1 || page > own.pagesCount) {
      fault = `a page from 1 to ${own.pagesCount}`;
      return;
    }
    close();
    own.turn(page - 1, true);
  }
  function close() {
    own.asking = false;
    fault = wanted = '';
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
  <form class="to" onsubmit={go} data-keeps-focus>
    <label
      >page
      <!-- svelte-ignore a11y_autofocus -->
      <input class="field num" autofocus bind:value={wanted} inputmode="numeric" placeholder={String(own.page + 1)} aria-label="page" />
    </label>
    <button class="act main">Go</button>
    <button class="act" type="button" onclick={close}>Close</button>
    {#if fault}<span role="alert">{fault}</span>{/if}
  </form>
{/if}
<nav class="pages" aria-label="pages" bind:this={strip}>
  {#each { length: own.pagesCount }, page (page)}
    <button
      class="page"
      class:open={own.open.has(page)}
      aria-current={page === own.page ? 'true' : undefined}
      aria-label={about(page)}
      title={about(page)}
      onclick={() => own.turn(page, true)}
    >
      <img src={own.book.address(page, 'thumb')} alt="" loading="lazy" height="58" draggable="false" />
      <span class="num at">{page + 1}</span>
      {#if own.count(page) > 0}<span class="num marks">{own.count(page)}</span>{/if}
      {#if own.open.has(page)}<span class="lacks" aria-hidden="true">?</span>{/if}
    </button>
  {/each}
</nav>

<style>
  .to {
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 5px 10px;
    background: var(--panel);
    border-top: 1px solid var(--line);
    font-size: 13px;
  }
  .to label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .to .field {
    width: 80px;
  }
  .pages {
    display: flex;
    gap: 6px;
    overflow-x: auto;
    scrollbar-width: thin;
    background: var(--sunk);
    border-top: 1px solid var(--line);
    padding: 5px 10px;
    height: 80px;
  }
  .page {
    position: relative;
    flex: none;
    min-width: 44px;
    height: 66px;
    border: 2px solid transparent;
    border-radius: 3px;
    cursor: pointer;
    opacity: 0.72;
    background: #fdfcf8;
    overflow: hidden;
    content-visibility: auto;
    contain-intrinsic-size: 46px 66px;
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
    width: auto;
    display: block;
    margin: 0 auto;
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
