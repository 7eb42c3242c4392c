<script lang="ts">
  import { api, ApiError, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { shapes, types } from '$lib/state/codebook';
  import ClassForm from '$lib/describe/ClassForm.svelte';
  import { keyOf, markers, move, palette } from '$lib/describe/edit';
  import QuestionForm from '$lib/describe/QuestionForm.svelte';
  import SkeletonDesigner from '$lib/describe/SkeletonDesigner.svelte';
  import TagList from '$lib/describe/TagList.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Handbook from '$lib/ui/Handbook.svelte';
  import LabellerView from '$lib/ui/LabellerView.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { ArrowDown, ArrowUp, Plus, X } from '@lucide/svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  let version = $state(0);
  let doc = $state<Schemas['CodebookDocument'] | null>(null);
  let check = $state<Schemas['CodebookCheck']>({ errors: [], not_yet_used: [], orphans: [] });
  let versions = $state<Schemas['CodebookVersion'][]>([]);
  let tab = $state<'classes' | 'questions' | 'tags' | 'skeletons' | 'json' | 'handbook'>('classes');
  let openClass = $state('');
  let openQuestion = $state('');
  let json = $state('');
  let jsonError = $state('');
  let note = $state('');
  let error = $state('');
  let saved = $state('');
  let paste = $state('');
  let book = $state<Schemas['Handbook']>({ version: 0, body: '' });
  let bookSaved = $state('');

  function show(codebook: Schemas['Codebook']) {
    version = codebook.version;
    doc = structuredClone(codebook.document);
    json = JSON.stringify(doc, null, 2);
  }
  onMount(async () => {
    try {
      show(await ask(api.GET('/projects/{project}/codebook', parts(project.id))));
      versions = (await ask(api.GET('/projects/{project}/codebook/versions', parts(project.id)))).data;
      book = await ask(api.GET('/projects/{project}/handbook', parts(project.id)));
    } catch (e) {
      error = (e as Error).message;
    }
  });

  // the core looks at every change, a moment after the last one
  let timer: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    const document = $state.snapshot(doc);
    clearTimeout(timer);
    if (document === null) return;
    timer = setTimeout(async () => {
      try {
        check = await ask(api.POST('/projects/{project}/codebook/check', { ...parts(project.id), body: { document: { ...document } } }));
      } catch (e) {
        error = (e as Error).message;
      }
    }, 250);
  });

  const attributes = $derived(doc?.attributes ?? []);
  const free = () => ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0'].find((k) => !doc?.classes.some((c) => c.shortcut === k));

  function addClasses(text: string) {
    if (!doc) return;
    for (const name of text
      .split(/[\n,;]+/)
      .map((w) => w.trim())
      .filter(Boolean)) {
      if (doc.classes.some((c) => c.name.toLowerCase() === name.toLowerCase())) continue;
      const key = keyOf(
        name,
        doc.classes.map((c) => c.key)
      );
      const n = doc.classes.length;
      const shortcut = free();
      doc.classes.push({
        key,
        name,
        color: palette[n % palette.length],
        marker: markers[n % markers.length],
        ...(shortcut ? { shortcut } : {}),
        shapes: ['box']
      });
      openClass = key;
    }
    paste = '';
  }
  function addQuestion() {
    if (!doc) return;
    doc.attributes ??= [];
    const key = keyOf(
      'question',
      doc.attributes.map((a) => a.key)
    );
    doc.attributes.push({
      key,
      name: 'New question',
      type: 'one',
      scope: 'object',
      options: [
        { key: 'yes', name: 'Yes' },
        { key: 'no', name: 'No' }
      ]
    });
    openQuestion = key;
  }
  function removeQuestion(i: number) {
    if (!doc?.attributes) return;
    const [gone] = doc.attributes.splice(i, 1);
    for (const c of doc.classes) if (c.attributes) c.attributes = c.attributes.filter((k) => k !== gone?.key);
  }
  function fromJson(text: string) {
    json = text;
    try {
      const parsed = JSON.parse(text);
      jsonError = '';
      if (parsed && Array.isArray(parsed.classes)) doc = parsed;
      else jsonError = 'a codebook needs a list of classes';
    } catch (e) {
      jsonError = (e as Error).message;
    }
  }

  async function save() {
    error = saved = '';
    try {
      show(
        await ask(
          api.PUT('/projects/{project}/codebook', {
            ...parts(project.id),
            body: { base: version, document: { ...$state.snapshot(doc) }, note }
          })
        )
      );
      saved = `saved as version ${version}`;
      note = '';
      versions = (await ask(api.GET('/projects/{project}/codebook/versions', parts(project.id)))).data;
    } catch (e) {
      const problem = e as ApiError;
      error = problem.message;
      if (problem.code === 'codebook_changed' && problem.problem.version) version = problem.problem.version;
    }
  }
  async function look(number: number) {
    const old = await ask(
      api.GET('/projects/{project}/codebook', { params: { path: { project: project.id }, query: { version: String(number) } } })
    );
    doc = structuredClone(old.document);
    json = JSON.stringify(doc, null, 2);
    note = `back to version ${number}`;
  }
  async function saveBook() {
    error = bookSaved = '';
    try {
      book = await ask(api.PUT('/projects/{project}/handbook', { ...parts(project.id), body: { base: book.version, body: book.body } }));
      bookSaved = 'saved';
    } catch (e) {
      error = (e as Error).message;
    }
  }
  const at = (path: string) => check.errors.filter((e) => e.path.startsWith(path));
</script>

<Shell title="Describe" {project}>
  {#snippet actions()}
    {#if tab !== 'handbook'}
      <span class="soft" role="status">{saved || `version ${version}`}</span>
      <input class="field note" placeholder="what changed" aria-label="note on the change" bind:value={note} />
      <button class="act main" disabled={check.errors.length > 0 || check.orphans.length > 0 || jsonError !== ''} onclick={save}
        >Save codebook</button
      >
    {/if}
  {/snippet}
  <ErrorNote message={error} />
  <div class="tabs" role="tablist" aria-label="parts of the description">
    {#each [['classes', 'Classes'], ['questions', 'Questions'], ['tags', 'Tags and limits'], ['skeletons', 'Skeletons'], ['json', 'As JSON'], ['handbook', 'Handbook']] as const as [key, word] (key)}
      <button
        role="tab"
        aria-selected={tab === key}
        onclick={() => {
          if (key === 'json' && doc) json = JSON.stringify(doc, null, 2);
          tab = key;
        }}>{word}</button
      >
    {/each}
  </div>
  {#if tab === 'handbook'}
    <div class="two even">
      <section>
        <textarea
          class="field num"
          rows="30"
          aria-label="handbook in Markdown"
          bind:value={book.body}
          placeholder="# How we label: what to mark, how tight, what to leave out…"></textarea>
        <button class="act main mt-2" onclick={saveBook}>Save handbook</button> <span role="status">{bookSaved}</span>
      </section>
      <section class="card"><Handbook body={book.body} /></section>
    </div>
  {:else if doc}
    <div class="two">
      <section>
        {#each check.errors as e, i (i)}<ErrorNote message="{e.path}: {e.message}" />{/each}
        {#each check.orphans as o, i (i)}<ErrorNote message="{o.path}: {o.message}. Keep it, or change those marks first." />{/each}
        {#if tab === 'classes'}
          {#each doc.classes as c, i (c.key)}
            <article class="entry" class:open={openClass === c.key} class:wrong={at(`classes[${i}]`).length > 0}>
              <div class="headline">
                <button class="title" aria-expanded={openClass === c.key} onclick={() => (openClass = openClass === c.key ? '' : c.key)}>
                  <Marker marker={c.marker ?? 'circle'} color={c.color ?? '#666666'} size={14} /><strong>{c.name}</strong>
                  {#if c.shortcut}<kbd>{c.shortcut}</kbd>{/if}
                  <span class="soft">{c.shapes.map((s) => shapes[s]).join(', ')}{c.ignore ? ' · left out of training' : ''}</span>
                </button>
                <button class="act link" aria-label="{c.name} up" onclick={() => move(doc!.classes, i, -1)}><ArrowUp size={14} /></button>
                <button class="act link" aria-label="{c.name} down" onclick={() => move(doc!.classes, i, 1)}><ArrowDown size={14} /></button
                >
                <button class="act link" aria-label="remove {c.name}" onclick={() => doc!.classes.splice(i, 1)}><X size={14} /></button>
              </div>
              {#if openClass === c.key}
                <ClassForm {doc} {c} rekeyed={(key) => (openClass = key)} />
              {/if}
            </article>
          {:else}
            <section class="card mb-3">
              <h2>No classes yet</h2>
              <p class="mt-1">A class is a kind of thing to mark. Type or paste their names below.</p>
            </section>
          {/each}
          <form
            class="add"
            onsubmit={(e) => {
              e.preventDefault();
              addClasses(paste);
            }}
          >
            <textarea
              class="field"
              rows="2"
              aria-label="new classes"
              placeholder="new classes, one a line or with commas"
              bind:value={paste}></textarea>
            <button class="act" disabled={paste.trim() === ''}><Plus size={14} />Add</button>
          </form>
        {:else if tab === 'questions'}
          {#each attributes as a, i (a.key)}
            <article class="entry" class:open={openQuestion === a.key} class:wrong={at(`attributes[${i}]`).length > 0}>
              <div class="headline">
                <button
                  class="title"
                  aria-expanded={openQuestion === a.key}
                  onclick={() => (openQuestion = openQuestion === a.key ? '' : a.key)}
                >
                  <strong>{a.name}</strong><span class="soft"
                    >{types[a.type]}{a.required ? ' · required' : ''}{a.scope === 'object'
                      ? ''
                      : a.scope === 'item'
                        ? ' · about the picture'
                        : ` · about the ${a.scope} (kept, not asked yet)`}{(a.when?.length ?? 0) > 0
                      ? ' · after certain answers'
                      : ''}</span
                  >
                </button>
                <button class="act link" aria-label="{a.name} up" onclick={() => move(attributes, i, -1)}><ArrowUp size={14} /></button>
                <button class="act link" aria-label="{a.name} down" onclick={() => move(attributes, i, 1)}><ArrowDown size={14} /></button>
                <button class="act link" aria-label="remove {a.name}" onclick={() => removeQuestion(i)}><X size={14} /></button>
              </div>
              {#if openQuestion === a.key}
                <QuestionForm {doc} {a} rekeyed={(key) => (openQuestion = key)} />
              {/if}
            </article>
          {:else}<section class="card mb-3">
              <h2>No questions yet</h2>
              <p class="mt-1">A question is asked about each object of the classes you choose: ripeness, damage, a length.</p>
            </section>{/each}
          <button class="act" onclick={addQuestion}><Plus size={14} />Add a question</button>
        {:else if tab === 'tags'}
          <TagList {doc} />
        {:else if tab === 'skeletons'}
          <SkeletonDesigner {doc} project={project.id} />
        {:else}
          <ErrorNote message={jsonError} />
          <textarea
            class="field num"
            rows="26"
            spellcheck="false"
            aria-label="codebook as JSON"
            value={json}
            oninput={(e) => fromJson(e.currentTarget.value)}></textarea>
          <p class="soft mt-1">The whole codebook by its schema (docs/codebook.schema.json); edit here, or paste another project's.</p>
        {/if}
        {#if check.not_yet_used.length > 0}
          <details class="mt-4 soft">
            <summary>{check.not_yet_used.length} parts are kept, but can't be used on the bench yet</summary>
            <ul>
              {#each check.not_yet_used as n, i (i)}<li><span class="num">{n.path}</span>: {n.message}</li>{/each}
            </ul>
          </details>
        {/if}
        {#if versions.length > 1}
          <details class="mt-2 soft">
            <summary>{versions.length} versions</summary>
            <ul>
              {#each versions as v (v.version)}<li>
                  <button class="act link" onclick={() => look(v.version)}>version {v.version}</button>
                  {new Date(v.at).toLocaleDateString('en-GB')}
                  {v.by}
                  {v.note}
                </li>{/each}
            </ul>
          </details>
        {/if}
      </section>
      <aside><LabellerView document={doc} /></aside>
    </div>
  {/if}
</Shell>

<style>
  .note {
    width: 180px;
  }
  .tabs {
    display: flex;
    gap: 4px;
    border-bottom: 1px solid var(--edge);
    margin-bottom: 12px;
  }
  .tabs button {
    padding: 5px 14px;
    cursor: pointer;
    border-bottom: 3px solid transparent;
  }
  .tabs [aria-selected='true'] {
    border-color: var(--primary);
    font-weight: 650;
  }
  .two {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 330px;
    gap: 22px;
    align-items: start;
  }
  .two.even {
    grid-template-columns: 1fr 1fr;
  }
  aside {
    position: sticky;
    top: 16px;
  }
  .entry {
    border: 1px solid var(--line);
    border-radius: 4px;
    background: var(--panel);
    margin-bottom: 5px;
  }
  .entry.open {
    border-color: var(--edge);
  }
  .entry.wrong {
    border-color: var(--accent);
  }
  .headline {
    display: flex;
    align-items: center;
    padding-right: 6px;
  }
  .title {
    flex: 1;
    display: flex;
    gap: 9px;
    align-items: center;
    padding: 7px 11px;
    cursor: pointer;
    text-align: left;
  }
  kbd {
    border: 1px solid var(--edge);
    border-radius: 3px;
    padding: 0 5px;
  }
  .add {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 8px;
    align-items: start;
    margin-top: 8px;
  }
  summary {
    cursor: pointer;
  }
</style>
