<script lang="ts">
  import { api, ApiError, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { shapes, types, noValues } from '$lib/state/codebook';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Handbook from '$lib/ui/Handbook.svelte';
  import LabellerView from '$lib/ui/LabellerView.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { ArrowDown, ArrowUp, Plus, X } from '@lucide/svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const markers = ['circle', 'ring', 'square', 'frame', 'triangle', 'diamond', 'cross', 'bar'] as const;
  const palette = [
    '#c2452d',
    '#2f7f9a',
    '#8a7a1f',
    '#1e6150',
    '#4a5fb0',
    '#0f766e',
    '#6d5a8f',
    '#a63d6e',
    '#7d5a3a',
    '#5b7f1c',
    '#b3261e',
    '#6b6f72'
  ];

  let version = $state(0);
  let doc = $state<Schemas['CodebookDocument'] | null>(null);
  let check = $state<Schemas['CodebookCheck']>({ errors: [], not_yet_used: [], orphans: [] });
  let versions = $state<Schemas['CodebookVersion'][]>([]);
  let tab = $state<'classes' | 'questions' | 'json' | 'handbook'>('classes');
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
  const keyOf = (name: string, taken: string[]) => {
    const base =
      name
        .toLowerCase()
        .normalize('NFD')
        .replace(/[^a-z0-9]+/g, '_')
        .replace(/^[^a-z]+|_+$/g, '')
        .slice(0, 50) || 'entry';
    let key = base;
    for (let n = 2; taken.includes(key); n++) key = `${base}_${n}`;
    return key;
  };
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
  /** A question's key, with all that refer to it. */
  function rekey(a: Schemas['CodebookAttribute'], key: string) {
    const old = a.key;
    a.key = key;
    openQuestion = key;
    for (const c of doc?.classes ?? []) if (c.attributes) c.attributes = c.attributes.map((k) => (k === old ? key : k));
    for (const b of attributes) for (const w of b.when ?? []) if (w.attribute === old) w.attribute = key;
  }
  function setType(a: Schemas['CodebookAttribute'], type: Schemas['CodebookAttribute']['type']) {
    a.type = type;
    delete a.default;
    if (type === 'one' || type === 'many') a.options ??= [{ key: 'a', name: 'A' }];
    else delete a.options;
    if (type === 'number') Object.assign(a, { min: a.min ?? 0, max: a.max ?? 100, step: a.step ?? 1, control: 'slider' });
    else for (const k of ['min', 'max', 'step', 'unit', 'control'] as const) delete a[k];
  }
  const move = <T,>(list: T[], at: number, by: number) => {
    const to = at + by;
    if (to < 0 || to >= list.length) return;
    list.splice(to, 0, ...list.splice(at, 1));
  };
  const toggle = <T,>(list: T[] | undefined, entry: T): T[] =>
    (list ?? []).includes(entry) ? (list ?? []).filter((e) => e !== entry) : [...(list ?? []), entry];
  const setOrDrop = (of: object, key: string, value: unknown) => {
    const target = of as Record<string, unknown>;
    if (value === '' || value === undefined || value === false || (typeof value === 'number' && Number.isNaN(value))) delete target[key];
    else target[key] = value;
  };
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
    {#each [['classes', 'Classes'], ['questions', 'Questions'], ['json', 'As JSON'], ['handbook', 'Handbook']] as const as [key, word] (key)}
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
                <div class="form">
                  <label>name <input class="field" bind:value={c.name} /></label>
                  <label
                    >key in files <input
                      class="field num"
                      value={c.key}
                      onchange={(e) => {
                        const old = c.key;
                        c.key = e.currentTarget.value;
                        for (const other of doc!.classes)
                          if (other.part_of) other.part_of = other.part_of.map((k) => (k === old ? c.key : k));
                        openClass = c.key;
                      }}
                    /></label
                  >
                  <label
                    >colour <span class="swatches"
                      >{#each palette as p (p)}<button
                          aria-label="colour {p}"
                          aria-pressed={c.color === p}
                          style:background={p}
                          onclick={() => (c.color = p)}
                        ></button>{/each}<input type="color" aria-label="another colour" bind:value={c.color} /></span
                    ></label
                  >
                  <label
                    >marker <span class="swatches"
                      >{#each markers as m (m)}<button aria-label="marker {m}" aria-pressed={c.marker === m} onclick={() => (c.marker = m)}
                          ><Marker marker={m} color={c.color ?? '#666'} /></button
                        >{/each}</span
                    ></label
                  >
                  <label
                    >digit key <select
                      class="field"
                      value={c.shortcut ?? ''}
                      onchange={(e) => setOrDrop(c, 'shortcut', e.currentTarget.value)}
                      ><option value="">none</option>{#each '1234567890'.split('') as k (k)}<option>{k}</option>{/each}</select
                    ></label
                  >
                  <label
                    >smallest side, px <input
                      class="field num"
                      type="number"
                      min="1"
                      value={(c.rules as { min_size?: number } | undefined)?.min_size ?? ''}
                      onchange={(e) => {
                        const n = e.currentTarget.valueAsNumber;
                        const rules = { ...(c.rules ?? {}) };
                        setOrDrop(rules, 'min_size', n);
                        setOrDrop(c, 'rules', Object.keys(rules).length ? rules : undefined);
                      }}
                    /></label
                  >
                  <label class="wide"
                    >description <textarea
                      class="field"
                      rows="2"
                      value={c.description ?? ''}
                      onchange={(e) => setOrDrop(c, 'description', e.currentTarget.value)}></textarea></label
                  >
                  <fieldset class="wide">
                    <legend>drawn as</legend>
                    {#each Object.entries(shapes) as [shape, word] (shape)}<label class="inline"
                        ><input
                          type="checkbox"
                          checked={c.shapes.includes(shape as 'box')}
                          onchange={() => (c.shapes = toggle(c.shapes, shape as 'box'))}
                        />
                        {word}{shape === 'box' ? '' : ' (later)'}</label
                      >{/each}
                  </fieldset>
                  <fieldset class="wide">
                    <legend>questions asked</legend>
                    {#each attributes.filter((a) => a.scope === 'object') as a (a.key)}<label class="inline"
                        ><input
                          type="checkbox"
                          checked={c.attributes?.includes(a.key) ?? false}
                          onchange={() => setOrDrop(c, 'attributes', toggle(c.attributes, a.key))}
                        />
                        {a.name}</label
                      >{:else}<span class="soft">none yet: add some under Questions</span>{/each}
                  </fieldset>
                  <label class="inline wide"
                    ><input type="checkbox" checked={c.ignore ?? false} onchange={(e) => setOrDrop(c, 'ignore', e.currentTarget.checked)} /> regions
                    of this class are left out of training and checks</label
                  >
                </div>
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
                      : ` · about the ${a.scope} (kept, not asked yet)`}{(a.when?.length ?? 0) > 0 ? ' · after certain answers' : ''}</span
                  >
                </button>
                <button class="act link" aria-label="{a.name} up" onclick={() => move(attributes, i, -1)}><ArrowUp size={14} /></button>
                <button class="act link" aria-label="{a.name} down" onclick={() => move(attributes, i, 1)}><ArrowDown size={14} /></button>
                <button class="act link" aria-label="remove {a.name}" onclick={() => removeQuestion(i)}><X size={14} /></button>
              </div>
              {#if openQuestion === a.key}
                <div class="form">
                  <label
                    >question <input
                      class="field"
                      bind:value={a.name}
                      onchange={() =>
                        /^question(_\d+)?$/.test(a.key) &&
                        rekey(
                          a,
                          keyOf(
                            a.name,
                            attributes.filter((b) => b !== a).map((b) => b.key)
                          )
                        )}
                    /></label
                  >
                  <label>key in files <input class="field num" value={a.key} onchange={(e) => rekey(a, e.currentTarget.value)} /></label>
                  <label
                    >answer <select class="field" value={a.type} onchange={(e) => setType(a, e.currentTarget.value as 'one')}
                      >{#each Object.entries(types) as [t, word] (t)}<option value={t}
                          >{word}{['one', 'many', 'yesno', 'number'].includes(t) ? '' : ' (later)'}</option
                        >{/each}</select
                    ></label
                  >
                  <label class="inline"
                    ><input
                      type="checkbox"
                      checked={a.required ?? false}
                      onchange={(e) => setOrDrop(a, 'required', e.currentTarget.checked)}
                    /> required</label
                  >
                  {#if a.type === 'number'}
                    {#each ['min', 'max', 'step'] as const as k (k)}<label
                        >{k}
                        <input
                          class="field num"
                          type="number"
                          step="any"
                          value={a[k] ?? ''}
                          onchange={(e) => setOrDrop(a, k, e.currentTarget.valueAsNumber)}
                        /></label
                      >{/each}
                    <label
                      >unit <input
                        class="field"
                        value={a.unit ?? ''}
                        onchange={(e) => setOrDrop(a, 'unit', e.currentTarget.value)}
                      /></label
                    >
                  {/if}
                  {#if a.options}
                    <fieldset class="wide">
                      <legend>choices</legend>
                      {#each a.options as option, j (j)}
                        <span class="option"
                          ><input
                            class="field"
                            aria-label="choice {j + 1}"
                            value={option.name}
                            onchange={(e) => {
                              const name = e.currentTarget.value;
                              const auto = option.key === keyOf(option.name, []) || /^(new_choice|a)(_\d+)?$/.test(option.key);
                              option.name = name;
                              if (auto)
                                option.key = keyOf(
                                  name,
                                  a.options!.filter((o) => o !== option).map((o) => o.key)
                                );
                            }}
                          /><button class="act link" aria-label="remove choice {option.name}" onclick={() => a.options!.splice(j, 1)}
                            ><X size={13} /></button
                          ></span
                        >
                      {/each}
                      <button
                        class="act link"
                        onclick={() =>
                          a.options!.push({
                            key: keyOf(
                              'new choice',
                              a.options!.map((o) => o.key)
                            ),
                            name: 'New choice'
                          })}><Plus size={13} />choice</button
                      >
                    </fieldset>
                  {/if}
                  <fieldset class="wide">
                    <legend>ways of having no value that count as an answer</legend>
                    {#each Object.entries(noValues) as [value, word] (value)}<label class="inline"
                        ><input
                          type="checkbox"
                          checked={a.no_value?.includes(value as 'none') ?? false}
                          onchange={() => {
                            const list = toggle(a.no_value, value as 'none');
                            setOrDrop(a, 'no_value', list.length ? list : undefined);
                          }}
                        />
                        {word}</label
                      >{/each}
                  </fieldset>
                  {#if a.type === 'one' || a.type === 'yesno'}
                    <label
                      >shown first, but no answer until touched <select
                        class="field"
                        value={a.default === undefined ? '' : String(a.default)}
                        onchange={(e) => {
                          const v = e.currentTarget.value;
                          if (v === '') delete a.default;
                          else a.default = a.type === 'yesno' ? v === 'true' : v;
                        }}
                        ><option value="">nothing</option>{#if a.type === 'yesno'}<option value="true">yes</option><option value="false"
                            >no</option
                          >{:else}{#each a.options ?? [] as o (o.key)}<option value={o.key}>{o.name}</option>{/each}{/if}</select
                      ></label
                    >
                  {/if}
                  {#if a.scope === 'object'}
                    <label
                      >asked only after <select
                        class="field"
                        value={a.when?.[0]?.attribute ?? ''}
                        onchange={(e) => {
                          const k = e.currentTarget.value;
                          if (k === '') delete a.when;
                          else {
                            const other = attributes.find((b) => b.key === k);
                            a.when = [{ attribute: k, any: [other?.type === 'yesno' ? true : (other?.options?.[0]?.key ?? 0)] }];
                          }
                        }}
                        ><option value="">always</option
                        >{#each attributes.filter((b) => b.key !== a.key && (b.options || b.type === 'yesno')) as b (b.key)}<option
                            value={b.key}>{b.name}</option
                          >{/each}</select
                      ></label
                    >
                    {#if a.when?.[0]}
                      {@const other = attributes.find((b) => b.key === a.when![0]!.attribute)}
                      <fieldset class="wide">
                        <legend>is one of</legend>
                        {#if other?.type === 'yesno'}
                          {#each [true, false] as v (v)}<label class="inline"
                              ><input
                                type="checkbox"
                                checked={a.when[0].any.includes(v)}
                                onchange={() => (a.when![0]!.any = toggle(a.when![0]!.any, v))}
                              />
                              {v ? 'yes' : 'no'}</label
                            >{/each}
                        {:else}{#each other?.options ?? [] as o (o.key)}<label class="inline"
                              ><input
                                type="checkbox"
                                checked={a.when[0].any.includes(o.key)}
                                onchange={() => (a.when![0]!.any = toggle(a.when![0]!.any, o.key))}
                              />
                              {o.name}</label
                            >{/each}{/if}
                      </fieldset>
                    {/if}
                    <fieldset class="wide">
                      <legend>asked for</legend>
                      {#each doc.classes as c (c.key)}<label class="inline"
                          ><input
                            type="checkbox"
                            checked={c.attributes?.includes(a.key) ?? false}
                            onchange={() => setOrDrop(c, 'attributes', toggle(c.attributes, a.key))}
                          />
                          {c.name}</label
                        >{/each}
                    </fieldset>
                  {/if}
                </div>
              {/if}
            </article>
          {:else}<section class="card mb-3">
              <h2>No questions yet</h2>
              <p class="mt-1">A question is asked about each object of the classes you choose: ripeness, damage, a length.</p>
            </section>{/each}
          <button class="act" onclick={addQuestion}><Plus size={14} />Add a question</button>
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
  .form {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px 14px;
    padding: 4px 12px 12px;
  }
  .form label,
  legend {
    font-size: 12.5px;
    color: var(--soft);
  }
  .form label :global(.field) {
    color: var(--ink);
  }
  .wide {
    grid-column: 1 / -1;
  }
  .inline {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    margin-right: 14px;
    color: var(--ink) !important;
  }
  .swatches {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding-top: 3px;
  }
  .swatches button {
    width: 21px;
    height: 21px;
    border-radius: 3px;
    display: grid;
    place-items: center;
    cursor: pointer;
  }
  .swatches [aria-pressed='true'] {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .swatches input {
    width: 26px;
    height: 21px;
  }
  .option {
    display: inline-flex;
    width: 190px;
    align-items: center;
    margin: 0 6px 4px 0;
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
