<script lang="ts">
  /** The handbook as it is written: Markdown with pictures dropped or pasted into it, or a PDF instead. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Handbook from '$lib/ui/Handbook.svelte';
  import { FileText, ImagePlus } from '@lucide/svelte';
  import { onMount } from 'svelte';

  let { project }: { project: number } = $props();
  let book = $state<Schemas['Handbook']>({ version: 0, body: '', pdf: null });
  let text: HTMLTextAreaElement | undefined = $state();
  let pictures: HTMLInputElement | undefined = $state();
  let pdf: HTMLInputElement | undefined = $state();
  let error = $state('');
  let saved = $state('');
  // what is typed before the text has come would be lost to it
  let loaded = $state(false);

  onMount(async () => {
    try {
      book = await ask(api.GET('/projects/{project}/handbook', parts(project)));
      loaded = true;
    } catch (e) {
      error = (e as Error).message;
    }
  });
  const keep = (file: File) =>
    ask(
      api.POST('/projects/{project}/handbook/files', {
        params: { path: { project }, query: { name: file.name } },
        body: file as unknown as string,
        bodySerializer: (body) => body as unknown as Blob,
        headers: { 'Content-Type': 'application/octet-stream' }
      })
    );

  async function putIn(files: Iterable<File>) {
    error = saved = '';
    for (const file of files) {
      try {
        const kept = await keep(file);
        if (kept.type === 'application/pdf') book.pdf = kept;
        else {
          // after what is marked, never in its place
          const at = text?.selectionEnd ?? book.body.length;
          book.body = `${book.body.slice(0, at)}\n![${kept.name.replace(/\.\w+$/, '')}](${kept.url})\n${book.body.slice(at)}`;
        }
      } catch (e) {
        error = `${file.name} was not taken: ${(e as Error).message}`;
      }
    }
    for (const input of [pictures, pdf]) if (input) input.value = '';
  }
  async function save() {
    error = saved = '';
    try {
      book = await ask(
        api.PUT('/projects/{project}/handbook', {
          ...parts(project),
          body: { base: book.version, body: book.body, pdf: book.pdf?.id ?? null }
        })
      );
      saved = `saved as version ${book.version}`;
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

<ErrorNote message={error} />
<div class="two">
  <section>
    <div class="bar">
      <button class="act" onclick={() => pictures?.click()} disabled={book.pdf !== null}
        ><ImagePlus size={15} strokeWidth={1.75} />Put in a picture</button
      >
      {#if book.pdf}<button class="act" onclick={() => (book.pdf = null)}>Back to the written text</button>
      {:else}<button class="act" onclick={() => pdf?.click()}><FileText size={15} strokeWidth={1.75} />A PDF instead</button>{/if}
      <span class="push"></span>
      <span role="status" class="soft">{saved}</span>
      <button class="act main" disabled={!loaded} onclick={save}>Save handbook</button>
    </div>
    <input
      type="file"
      class="unseen"
      tabindex="-1"
      multiple
      accept="image/png,image/jpeg,image/webp,image/gif"
      aria-label="pictures for the handbook"
      bind:this={pictures}
      onchange={() => putIn(pictures?.files ?? [])}
    />
    <input
      type="file"
      class="unseen"
      tabindex="-1"
      accept="application/pdf"
      aria-label="PDF for the handbook"
      bind:this={pdf}
      onchange={() => putIn(pdf?.files ?? [])}
    />
    {#if book.pdf}
      <p class="card">
        The handbook is <strong>{book.pdf.name}</strong>, <span class="num">{Math.ceil(book.pdf.bytes / 1000)}</span> kB. What is written in Markdown
        stays and comes back when you leave the PDF.
      </p>
    {:else}
      <textarea
        class="field num"
        rows="28"
        aria-label="handbook in Markdown"
        placeholder="# How we label: what to mark, how tight, what to leave out… A heading with a class's name opens when that class is in hand."
        disabled={!loaded}
        bind:this={text}
        bind:value={book.body}
        ondragover={(e) => e.preventDefault()}
        ondrop={(e) => {
          if (!e.dataTransfer?.files.length) return;
          e.preventDefault();
          void putIn(e.dataTransfer.files);
        }}
        onpaste={(e) => {
          if (!e.clipboardData?.files.length) return;
          e.preventDefault();
          void putIn(e.clipboardData.files);
        }}></textarea>
    {/if}
  </section>
  <section class="card page"><Handbook body={book.body} pdf={book.pdf} /></section>
</div>

<style>
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 22px;
    align-items: start;
  }
  .bar {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
    margin-bottom: 8px;
    white-space: nowrap;
  }
  .push {
    flex: 1;
  }
  .page {
    max-height: calc(100vh - 120px);
    overflow: auto;
  }
</style>
