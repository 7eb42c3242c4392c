<script lang="ts">
  /** A handbook that is a PDF: its pages drawn as they come into view, searchable, opening where the class in hand is written largest. */
  import { getDocument, GlobalWorkerOptions, TextLayer, type PDFPageProxy } from 'pdfjs-dist';
  import worker from 'pdfjs-dist/build/pdf.worker.min.mjs?worker&url';
  import { reveal } from './reveal';
  import { onMount } from 'svelte';

  let { url, search = '', about = '', found }: { url: string; search?: string; about?: string; found: (hits: number) => void } = $props();
  GlobalWorkerOptions.workerSrc = worker;

  type Item = { str: string; height: number };
  let pages = $state.raw<{ page: PDFPageProxy; items: Item[]; text: string }[]>([]);
  let place: HTMLElement | undefined = $state();
  let width = $state(0);
  let error = $state('');

  onMount(() => {
    // scripts in a PDF are refused when it is brought in; here nothing of it runs either
    const loading = getDocument({ url, withCredentials: true, isEvalSupported: false, enableXfa: false });
    loading.promise
      .then(async (loaded) => {
        const read: typeof pages = [];
        for (let n = 1; n <= loaded.numPages; n++) {
          const page = await loaded.getPage(n);
          const items = (await page.getTextContent()).items.filter((i) => 'str' in i) as Item[];
          read.push({
            page,
            items,
            text: items
              .map((i) => i.str)
              .join(' ')
              .toLowerCase()
          });
        }
        pages = read;
      })
      .catch((e: Error) => (error = `the handbook could not be shown: ${e.message}`));
    return () => void loading.destroy();
  });

  /** Page on which a word is written largest: its heading. */
  function headingOf(word: string): number {
    let [best, size] = [-1, 0];
    pages.forEach((p, n) => {
      for (const i of p.items) if (i.height > size && i.str.toLowerCase().includes(word)) [best, size] = [n, i.height];
    });
    return best;
  }
  const word = $derived(search.trim().toLowerCase());
  $effect(() => {
    const searching = word.length > 1;
    found(searching ? pages.reduce((n, p) => n + p.text.split(word).length - 1, 0) : 0);
    const to = searching ? pages.findIndex((p) => p.text.includes(word)) : about === '' ? -1 : headingOf(about.toLowerCase());
    if (to >= 0)
      requestAnimationFrame(() => {
        const page = place?.children[to];
        if (page) reveal(page);
      });
  });

  /** Draws a page when it comes near the view, and again when the panel has another width. */
  function drawn(node: HTMLElement, wanted: { page: PDFPageProxy; width: number; word: string }) {
    let now = wanted;
    let near = false;
    let run = 0;
    async function draw() {
      if (!near || now.width === 0) return;
      const mine = ++run;
      const scale = now.width / now.page.getViewport({ scale: 1 }).width;
      const sharp = now.page.getViewport({ scale: scale * devicePixelRatio });
      const canvas = Object.assign(document.createElement('canvas'), { width: sharp.width, height: sharp.height });
      await now.page.render({ canvasContext: canvas.getContext('2d')!, viewport: sharp }).promise;
      const layer = document.createElement('div');
      layer.className = 'words';
      const text = new TextLayer({
        textContentSource: now.page.streamTextContent(),
        container: layer,
        viewport: now.page.getViewport({ scale })
      });
      await text.render();
      if (mine !== run) return;
      if (now.word.length > 1)
        for (const div of text.textDivs) div.classList.toggle('hit', (div.textContent ?? '').toLowerCase().includes(now.word));
      node.style.setProperty('--scale-factor', String(scale));
      node.replaceChildren(canvas, layer);
    }
    const watch = new IntersectionObserver(
      ([entry]) => {
        near = entry!.isIntersecting;
        void draw();
      },
      { rootMargin: '400px' }
    );
    watch.observe(node);
    return {
      update(next: typeof wanted) {
        now = next;
        void draw();
      },
      destroy: () => watch.disconnect()
    };
  }
  const height = (page: PDFPageProxy) => {
    const v = page.getViewport({ scale: 1 });
    return (width * v.height) / v.width;
  };
</script>

{#if error !== ''}<p role="alert">{error}</p>{/if}
{#if pages.length === 0 && error === ''}<p class="soft" role="status">opening the handbook</p>{/if}
<div class="pages" bind:this={place} bind:clientWidth={width}>
  {#each pages as p, n (n)}
    <div
      class="page"
      role="group"
      aria-label="page {n + 1}"
      style:height="{height(p.page)}px"
      use:drawn={{ page: p.page, width, word }}
    ></div>
  {/each}
</div>

<style>
  .page {
    position: relative;
    background: #fff;
    margin-bottom: 10px;
  }
  .page :global(canvas) {
    width: 100%;
    height: 100%;
  }
  .page :global(.words) {
    position: absolute;
    inset: 0;
    line-height: 1;
    overflow: clip;
  }
  .page :global(.words span) {
    position: absolute;
    color: transparent;
    white-space: pre;
    transform-origin: 0 0;
    cursor: text;
  }
  .page :global(.words .hit) {
    background: rgb(217 87 43 / 0.35);
  }
</style>
