<script lang="ts">
  import { beforeNavigate, goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { session } from '$lib/state/session.svelte';
  import Dialog from '$lib/ui/Dialog.svelte';
  import { shapes, types } from '$lib/words/codebook';
  import ClassForm from '$lib/describe/ClassForm.svelte';
  import { Draft } from '$lib/describe/draft.svelte';
  import { adopt, keyOf, markers, move, palette } from '$lib/describe/edit';
  import Effects from '$lib/describe/Effects.svelte';
  import { placed, unasked } from '$lib/describe/faults';
  import HandbookEditor from '$lib/describe/HandbookEditor.svelte';
  import Proposals from '$lib/describe/Proposals.svelte';
  import QuestionForm from '$lib/describe/QuestionForm.svelte';
  import RelationList from '$lib/describe/RelationList.svelte';
  import Reuse from '$lib/describe/Reuse.svelte';
  import SkeletonDesigner from '$lib/describe/SkeletonDesigner.svelte';
  import TagList from '$lib/describe/TagList.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LabellerView from '$lib/describe/LabellerView.svelte';
  import Marker from '$lib/ui/Marker.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { ArrowDown, ArrowUp, Plus, X } from '@lucide/svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const draft = new Draft(project.id, session.user!.id);
  /** where one was about to go with something not saved */
  let leaving = $state<string | null>(null);
  /** it has been said what is to become of it */
  let going = false;
  beforeNavigate((navigation) => {
    if (going || !draft.dirty || navigation.to?.url.pathname === page.url.pathname) return;
    navigation.cancel();
    if (navigation.type !== 'leave' && navigation.to)
      leaving = navigation.to.url.pathname + navigation.to.url.search + navigation.to.url.hash;
  });
  async function leave(how: 'save' | 'keep' | 'drop') {
    const to = leaving!;
    if (how === 'save') {
      await draft.save();
      if (draft.error !== '') {
        leaving = null;
        return;
      }
    } else if (how === 'drop') draft.forget();
    leaving = null;
    going = true;
    await goto(to).finally(() => (going = false));
  }
  let tab = $state<'classes' | 'questions' | 'tags' | 'skeletons' | 'relations' | 'json' | 'handbook' | 'proposals'>(
    page.url.hash === '#proposals' ? 'proposals' : 'classes'
  );
  let openClass = $state('');
  let openQuestion = $state('');
  let json = $state('');
  let jsonError = $state('');
  let paste = $state('');
  let proposals = $state.raw<Schemas['Proposal'][]>([]);
  const waiting = $derived(proposals.filter((p) => p.state === 'open').length);
  let elsewhere = $state.raw<Schemas['Templates'] | null>(null);
  const doc = $derived(draft.doc);

  onMount(() => {
    Promise.all([
      draft.load(),
      ask(api.GET('/projects/{project}/proposals', parts(project.id))).then(
        (found) => (proposals = found.data.filter((p) => p.kind !== 'question'))
      ),
      ask(api.GET('/templates')).then((found) => (elsewhere = found))
    ]).catch((e) => (draft.error = (e as Error).message));
    return () => draft.close();
  });
  $effect(() => {
    const document = $state.snapshot(draft.doc);
    const mapping = $state.snapshot(draft.mapping);
    if (document !== null) draft.look(document, mapping);
  });

  const attributes = $derived(doc?.attributes ?? []);
  const free = () => ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0'].find((k) => !doc?.classes.some((c) => c.shortcut === k));

  /** Classes of other projects one manages, by name. */
  const known = $derived(
    new Map(
      (elsewhere?.projects ?? [])
        .filter((p) => p.id !== project.id)
        .flatMap((p) => p.document.classes.map((c) => [c.name.toLowerCase(), { c, from: p }] as const))
    )
  );
  const offered = $derived([...known.values()].filter(({ c }) => !doc?.classes.some((d) => d.name.toLowerCase() === c.name.toLowerCase())));

  function addClasses(text: string) {
    if (!doc) return;
    for (const name of text
      .split(/[\n,;]+/)
      .map((w) => w.trim())
      .filter(Boolean)) {
      if (doc.classes.some((c) => c.name.toLowerCase() === name.toLowerCase())) continue;
      const there = known.get(name.toLowerCase());
      if (there) openClass = adopt(doc, there.c, there.from.document, free());
      else {
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
      if (parsed && Array.isArray(parsed.classes)) draft.doc = parsed;
      else jsonError = 'a codebook needs a list of classes';
    } catch (e) {
      jsonError = (e as Error).message;
    }
  }

  async function goBack(version: number) {
    try {
      await draft.goBack(version);
      json = JSON.stringify(draft.doc, null, 2);
    } catch (e) {
      draft.error = (e as Error).message;
    }
  }
  const faults = $derived(doc === null ? [] : placed(doc, draft.check.errors));
  const at = (part: string, i: number) => faults.filter((f) => f.part === part && f.index === i);
  const lonely = $derived(doc === null ? new Set<string>() : unasked(doc));
  const counts = $derived({
    classes: faults.filter((f) => f.part === 'classes').length,
    questions: faults.filter((f) => f.part === 'attributes').length + lonely.size,
    tags: faults.filter((f) => f.part === 'tags').length,
    skeletons: faults.filter((f) => f.part === 'skeletons').length,
    relations: faults.filter((f) => f.part === 'relations').length
  } as Record<string, number>);
</script>

<Shell title="Describe" {project}>
  {#snippet actions()}
    {#if tab !== 'handbook' && tab !== 'proposals'}
      <span class="soft" role="status"
        >{draft.underWay
          ? `${draft.underWay.done} of ${draft.underWay.total} labels are in the new words`
          : draft.saved || `version ${draft.version}`}</span
      >
      <input class="field note" placeholder="what changed" aria-label="note on the change" bind:value={draft.note} />
      <button class="act main" disabled={!draft.settled || jsonError !== '' || draft.underWay !== null} onclick={() => draft.save()}
        >Save codebook</button
      >
    {/if}
  {/snippet}
  <ErrorNote message={draft.error} />
  <div class="tabs" role="tablist" aria-label="parts of the description">
    {#each [['classes', 'Classes'], ['questions', 'Questions'], ['tags', 'Tags and limits'], ['skeletons', 'Skeletons'], ['relations', 'Relations'], ['json', 'As JSON'], ['handbook', 'Handbook'], ['proposals', waiting > 0 ? `Proposals (${waiting})` : 'Proposals']] as const as [key, word] (key)}
      <button
        role="tab"
        aria-selected={tab === key}
        onclick={() => {
          if (key === 'json' && doc) json = JSON.stringify(doc, null, 2);
          tab = key;
        }}
        >{word}{#if counts[key]}<span class="faults" title="to be looked at">{counts[key]}</span>{/if}</button
      >
    {/each}
  </div>
  {#if tab === 'handbook'}
    <HandbookEditor project={project.id} />
  {:else if tab === 'proposals'}
    <Proposals
      project={project.id}
      {proposals}
      changed={(p) => (proposals = proposals.map((o) => (o.id === p.id ? p : o)))}
      addClass={(name, description) => {
        addClasses(name);
        const made = doc?.classes.find((c) => c.name.toLowerCase() === name.toLowerCase());
        if (made) made.description ??= description;
        tab = 'classes';
      }}
    />
  {:else if doc}
    <div class="two">
      <section>
        {#if draft.broughtBack !== ''}<p class="card back" role="status">
            {draft.broughtBack}
            <button class="act" onclick={() => draft.startOver().catch((e: Error) => (draft.error = e.message))}
              >Start over from version {draft.version}</button
            >
          </p>{/if}
        {#each faults.filter((f) => f.part === null) as f, i (i)}<ErrorNote message={f.words} />{/each}
        {#if tab === 'json' || tab === 'tags' || tab === 'skeletons' || tab === 'relations'}{#each faults.filter((f) => f.part !== null && (tab === 'json' || f.part === tab)) as f, i (i)}<ErrorNote
              message={f.words}
            />{/each}{/if}
        <Effects {draft} />
        {#if tab === 'classes'}
          {#each doc.classes as c, i (c)}
            <article class="entry" class:open={openClass === c.key} class:wrong={at('classes', i).length > 0}>
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
              {#each at('classes', i) as f, n (n)}<p class="fault" role="alert">{f.words}</p>{/each}
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
          {#if offered.length > 0}
            <p class="soft mt-1">
              from your other projects:
              {#each offered.slice(0, 12) as { c, from }, i (i)}<button
                  class="act link"
                  title="as in {from.name}, with its questions"
                  onclick={() => addClasses(c.name)}>{c.name}</button
                >{/each}
            </p>
          {/if}
        {:else if tab === 'questions'}
          {#each attributes as a, i (a)}
            <article class="entry" class:open={openQuestion === a.key} class:wrong={at('attributes', i).length > 0 || lonely.has(a.key)}>
              <div class="headline">
                <button
                  class="title"
                  aria-expanded={openQuestion === a.key}
                  onclick={() => (openQuestion = openQuestion === a.key ? '' : a.key)}
                >
                  <strong>{a.name}</strong><span class="soft"
                    >{types[a.type]}{a.required ? ' · required' : ''}{a.scope === 'object'
                      ? a.varies
                        ? ' · may change along a clip'
                        : ''
                      : a.scope === 'item'
                        ? ' · about the whole'
                        : a.scope === 'frame'
                          ? ' · about frames: it switches'
                          : ` · about the ${a.scope} (kept, not asked yet)`}{(a.when?.length ?? 0) > 0
                      ? ' · after certain answers'
                      : ''}</span
                  >
                </button>
                <button class="act link" aria-label="{a.name} up" onclick={() => move(attributes, i, -1)}><ArrowUp size={14} /></button>
                <button class="act link" aria-label="{a.name} down" onclick={() => move(attributes, i, 1)}><ArrowDown size={14} /></button>
                <button class="act link" aria-label="remove {a.name}" onclick={() => removeQuestion(i)}><X size={14} /></button>
              </div>
              {#each at('attributes', i) as f, n (n)}<p class="fault" role="alert">{f.words}</p>{/each}
              {#if lonely.has(a.key)}<p class="fault" role="status">{a.name} is asked for no class: nobody will see it</p>{/if}
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
        {:else if tab === 'relations'}
          <RelationList {doc} />
        {:else if tab === 'skeletons'}
          <SkeletonDesigner {doc} project={project.id} />
        {:else}
          <Reuse
            {doc}
            name={project.project?.name ?? 'codebook'}
            take={(taken, from) => {
              draft.doc = taken;
              json = JSON.stringify(taken, null, 2);
              jsonError = '';
              draft.note = `from ${from}`;
            }}
          />
          <ErrorNote message={jsonError} />
          <textarea
            class="field num"
            rows="26"
            spellcheck="false"
            aria-label="codebook as JSON"
            value={json}
            oninput={(e) => fromJson(e.currentTarget.value)}></textarea>
          <p class="soft mt-1">
            The whole codebook by its schema (docs/codebook.schema.json); also written and read by <span class="num">skeno:codebook</span>.
          </p>
        {/if}
        {#if draft.versions.length > 1}
          <details class="mt-2 soft">
            <summary>{draft.versions.length} versions</summary>
            <ul>
              {#each draft.versions as v (v.version)}<li>
                  <button class="act link" onclick={() => goBack(v.version)}>version {v.version}</button>
                  {new Date(v.at).toLocaleDateString('en-GB')}
                  {v.by}
                  {v.note}
                  {#if v.report.length > 0}<ul>
                      {#each v.report as line, i (i)}<li>{line.message}</li>{/each}
                    </ul>{/if}
                </li>{/each}
            </ul>
          </details>
        {/if}
      </section>
      <aside><LabellerView document={doc} /></aside>
    </div>
  {/if}
</Shell>

{#if leaving !== null}
  <Dialog label="not saved yet" close={() => (leaving = null)}>
    <h2>The codebook is not saved</h2>
    <p class="mt-1 mb-3">What you changed is kept in this browser until you save it or start over.</p>
    <button class="act main" disabled={!draft.settled || jsonError !== ''} onclick={() => leave('save')}>Save and go</button>
    <button class="act" onclick={() => leave('keep')}>Go, and keep it here</button>
    <button class="act" onclick={() => leave('drop')}>Drop the changes</button>
    <button class="act" onclick={() => (leaving = null)}>Stay</button>
  </Dialog>
{/if}

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
    padding: 5px 12px;
    white-space: nowrap;
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
  .fault {
    color: var(--accent-text);
    padding: 0 11px 6px;
    font-size: 13.5px;
  }
  .faults {
    margin-left: 6px;
    color: var(--accent-text);
    font-weight: 650;
  }
  .back {
    display: flex;
    gap: 10px;
    align-items: center;
    margin-bottom: 8px;
    padding: 7px 12px;
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
