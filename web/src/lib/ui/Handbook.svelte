<script lang="ts">
  /** The written rules: Markdown made safe, or a PDF; searchable, opening at the part that names the class in hand. */
  import type { Schemas } from '$lib/api/client';
  import { reveal } from './reveal';
  import DOMPurify from 'dompurify';
  import { marked } from 'marked';

  let { body, pdf = null, about = '' }: { body: string; pdf?: Schemas['HandbookFile'] | null; about?: string } = $props();
  let search = $state('');
  let place: HTMLElement | undefined = $state();
  let hits = $state(0);

  const html = $derived(
    DOMPurify.sanitize(marked.parse(body, { async: false }), {
      FORBID_ATTR: ['style'],
      FORBID_TAGS: ['style', 'form', 'input', 'iframe', 'svg', 'math'],
      ALLOWED_URI_REGEXP: /^(#|\/api\/)/
    })
  );

  $effect(() => {
    if (!place) return;
    // the text comes out of DOMPurify; the marks of a search are put into it by hand
    // eslint-disable-next-line svelte/no-dom-manipulating
    place.innerHTML = html;
    const word = search.trim().toLowerCase();
    let found = 0;
    if (word.length > 1) {
      const walker = document.createTreeWalker(place, NodeFilter.SHOW_TEXT);
      const nodes: Text[] = [];
      while (walker.nextNode()) nodes.push(walker.currentNode as Text);
      for (const node of nodes) {
        let rest: Text = node;
        for (let at = rest.data.toLowerCase().indexOf(word); at >= 0; at = rest.data.toLowerCase().indexOf(word)) {
          const hit = rest.splitText(at);
          rest = hit.splitText(word.length);
          const mark = document.createElement('mark');
          hit.replaceWith(mark);
          mark.append(hit);
          found++;
        }
      }
      const first = place.querySelector('mark');
      if (first) reveal(first);
    } else if (about !== '') {
      const heading = [...place.querySelectorAll('h1,h2,h3')].find((h) => h.textContent?.toLowerCase().includes(about.toLowerCase()));
      if (heading) reveal(heading);
    }
    hits = found;
  });
</script>

<div class="find">
  <input class="field" placeholder="search the handbook" aria-label="search the handbook" bind:value={search} />{#if search.length > 1}<span
      class="soft num"
      role="status">{hits}</span
    >{/if}
</div>
{#if pdf}
  {#await import('./PdfBook.svelte') then book}
    <book.default url={pdf.url} {search} {about} found={(n) => (hits = n)} />
  {/await}
{:else}
  {#if body.trim() === ''}<p class="soft">No rules are written yet.</p>{/if}
  <div class="prose" bind:this={place}></div>
{/if}

<style>
  .find {
    position: sticky;
    top: -18px;
    z-index: 1;
    background: var(--panel);
    padding: 20px 0 6px;
    margin-top: -18px;
    display: flex;
    gap: 8px;
    align-items: center;
    margin-bottom: 12px;
  }
  /* beside the field too, where a panel has its close button: text must not show through there */
  .find::before {
    content: '';
    position: absolute;
    inset: 0 -48px 0 0;
    background: inherit;
    z-index: -1;
  }
</style>
