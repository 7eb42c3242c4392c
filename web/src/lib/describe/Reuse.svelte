<script lang="ts">
  /** A codebook from elsewhere: a template, another project's, a file; and this one as a file. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import { Download, FileUp } from '@lucide/svelte';
  import { onMount } from 'svelte';

  type Doc = Schemas['CodebookDocument'];
  let { doc, name, take }: { doc: Doc; name: string; take: (doc: Doc, from: string) => void } = $props();
  let found = $state.raw<Schemas['Templates'] | null>(null);
  let error = $state('');
  let file: HTMLInputElement | undefined = $state();

  onMount(async () => {
    try {
      found = await ask(api.GET('/templates'));
    } catch (e) {
      error = (e as Error).message;
    }
  });

  function download() {
    const url = URL.createObjectURL(new Blob([JSON.stringify(doc, null, 2) + '\n'], { type: 'application/json' }));
    const link = Object.assign(document.createElement('a'), {
      href: url,
      download: `${name.toLowerCase().replace(/\W+/g, '-')}.codebook.json`
    });
    link.click();
    URL.revokeObjectURL(url);
  }
  async function read() {
    const chosen = file?.files?.[0];
    error = '';
    if (!chosen) return;
    try {
      const parsed: unknown = JSON.parse((await chosen.text()).replace(/^\uFEFF/, ''));
      if (!parsed || !Array.isArray((parsed as Doc).classes)) throw new Error('a codebook needs a list of classes');
      take(parsed as Doc, chosen.name);
    } catch (e) {
      error = `${chosen.name} was not taken: ${(e as Error).message}`;
    }
    if (file) file.value = '';
  }
  function choose(value: string) {
    const [kind, key] = value.split(' ');
    const one = kind === 't' ? found?.templates.find((t) => t.key === key) : found?.projects.find((p) => String(p.id) === key);
    if (one) take(structuredClone(one.document), one.name);
  }
</script>

<ErrorNote message={error} />
<div class="reuse">
  <button class="act" onclick={download}><Download size={15} strokeWidth={1.75} />Download</button>
  <button class="act" onclick={() => file?.click()}><FileUp size={15} strokeWidth={1.75} />Load a file</button>
  <input
    type="file"
    accept=".json,application/json"
    aria-label="codebook file"
    class="unseen"
    tabindex="-1"
    bind:this={file}
    onchange={read}
  />
  <select
    class="field"
    aria-label="take a codebook from"
    value=""
    onchange={(e) => {
      choose(e.currentTarget.value);
      e.currentTarget.value = '';
    }}
  >
    <option value="">take from…</option>
    <optgroup label="templates"
      >{#each found?.templates ?? [] as t (t.key)}<option value="t {t.key}">{t.name}</option>{/each}</optgroup
    >
    <optgroup label="your projects"
      >{#each found?.projects.filter((p) => p.name !== name) ?? [] as p (p.id)}<option value="p {p.id}">{p.name}</option>{/each}</optgroup
    >
  </select>
</div>

<style>
  .reuse {
    display: flex;
    gap: 8px;
    margin-bottom: 8px;
    align-items: center;
    white-space: nowrap;
  }
</style>
