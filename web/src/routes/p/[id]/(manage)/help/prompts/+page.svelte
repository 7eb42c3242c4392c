<script lang="ts">
  /** A prompt is a sentence and its words: written, tried on accepted texts while the figures come in, run over the rest. */
  import '$lib/ui/sentence.css';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { page } from '$app/state';
  import { goesOn, lasting } from '$lib/help/help.svelte';
  import Runs from '$lib/help/Runs.svelte';
  import WhichItems from '$lib/help/WhichItems.svelte';
  import Ways from '$lib/help/Ways.svelte';
  import ChatModels from '$lib/prompts/ChatModels.svelte';
  import Figures from '$lib/prompts/Figures.svelte';
  import Gain from '$lib/prompts/Gain.svelte';
  import { Prompts, type Task } from '$lib/prompts/prompts.svelte';
  import { useProject } from '$lib/state/context';
  import { parts } from '$lib/state/project.svelte';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Part from '$lib/ui/Part.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Words } from '$lib/words/words.svelte';
  import { Progressbar } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const prompts = new Prompts(project.id);
  prompts.which.narrow(page.url.searchParams.getAll('f'));
  const words = new Words(project.id);
  const owner = session.user?.is_owner ?? false;
  let sets = $state.raw<Schemas['Set'][]>([]);
  let addresses = $state.raw<Schemas['Endpoint'][]>([]);
  let openPart = $state('');
  let ready = $state(false);
  let field: HTMLTextAreaElement | undefined = $state();

  onMount(() => {
    void (async () => {
      try {
        const [codebook, found, allowed] = await Promise.all([
          ask(api.GET('/projects/{project}/codebook', parts(project.id))),
          ask(api.GET('/projects/{project}/sets', parts(project.id))),
          owner ? ask(api.GET('/endpoints')) : null
        ]);
        words.take(codebook);
        [sets, addresses] = [found.data, allowed?.data ?? []];
      } catch (e) {
        prompts.error = (e as Error).message;
        return;
      }
      await prompts.load();
      ready = true;
    })();
    const timer = setInterval(() => {
      if (prompts.goesOn) void prompts.look();
    }, 1200);
    return () => {
      clearInterval(timer);
      clearTimeout(filling);
      prompts.close();
    };
  });
  // how many texts the sentence is about: accepted ones to try it on, others to run it over
  let counts = $state.raw<{ accepted: number; rest: number } | null>(null);
  let asked = 0;
  const count = (more: string[]) =>
    ask(
      api.GET('/projects/{project}/items', {
        params: { path: { project: project.id }, query: { 'f[]': [...prompts.which.conditions, ...more] } }
      })
    );
  $effect(() => {
    const mine = ++asked;
    Promise.all([count(['state:accepted']), count(['-state:accepted'])])
      .then(([accepted, rest]) => {
        if (mine === asked) counts = { accepted: accepted.total, rest: rest.total };
      })
      .catch((e: Error) => {
        if (mine === asked) [counts, prompts.error] = [null, e.message];
      });
  });

  let filling: ReturnType<typeof setTimeout> | undefined;
  function written() {
    prompts.written();
    clearTimeout(filling);
    filling = setTimeout(() => void prompts.fill(), 250);
  }
  function toggle(of: keyof Task, key: string) {
    const { task } = prompts.draft;
    const now = task[of].includes(key)
      ? task[of].filter((k) => k !== key)
      : prompts.all[of].filter((k) => k === key || task[of].includes(k));
    prompts.draft.task = { ...task, [of]: now };
    written();
  }
  /** puts a place that is filled in where the caret is */
  function put(place: string) {
    if (!field) return;
    const { selectionStart: from, selectionEnd: to } = field;
    prompts.draft.words = prompts.draft.words.slice(0, from) + place + prompts.draft.words.slice(to);
    written();
    queueMicrotask(() => {
      field?.focus();
      field?.setSelectionRange(from + place.length, from + place.length);
    });
  }
  const question = (key: string) => words.document.attributes?.find((a) => a.key === key)?.name ?? key;
  const tag = (key: string) => words.itemTags.find((t) => t.key === key)?.name ?? key;
  const asks = $derived([
    ...prompts.draft.task.classes.map(words.nameOf),
    ...prompts.draft.task.questions.map(question),
    ...prompts.draft.task.tags.map(tag)
  ]);
  const few = (names: string[]) => (names.length > 5 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', '));
  const model = $derived(prompts.models.find((m) => m.id === prompts.draft.model) ?? null);
  const stays = {
    beside: 'all of them; what is there stays',
    replace: 'all of them; earlier suggestions go',
    without: 'only those without marks'
  } as const;
  const tried = $derived(prompts.shown);
  const href = (item: number, trial = tried?.id, against = prompts.against) =>
    `/p/${project.id}/help/prompts/${trial}?item=${item}${against === null ? '' : `&against=${against}`}`;
  const stateWord: Record<Schemas['PromptTrial']['state'], string> = {
    waiting: 'waits for the worker',
    working: 'at work',
    done: 'done',
    failed: 'failed',
    cancelled: 'stopped'
  };
  const expected = $derived(prompts.expected(counts?.rest ?? 0));
  const tries = $derived(Math.min(prompts.on.limit, counts?.accepted ?? 0));
  const unready = $derived(!prompts.canBeSaved && prompts.isChanged);
  const wish = $derived(prompts.draft.name.trim() === '' ? 'a new prompt' : prompts.draft.name);
</script>

<svelte:window
  onbeforeunload={(e) => {
    // what is kept in this browser is there again
    if (prompts.error !== '' && prompts.isChanged && prompts.draft.words !== '') e.preventDefault();
  }}
/>

<Shell title="Help" {project}>
  {#snippet actions()}<Ways project={project.id} />{/snippet}
  <ErrorNote message={prompts.error} />
  {#if ready && prompts.all.classes.length + prompts.all.questions.length + prompts.all.tags.length === 0}
    <p class="mb-3">
      A prompt asks a chat model about texts. This codebook has no class that is drawn on texts and no question about them: <a
        class="plain"
        href="/p/{project.id}/describe">describe</a
      > one first.
    </p>
  {:else if ready}
    <section class="card mb-6" aria-label="prompt">
      <p class="sentence">
        With <Part
          bind:open={openPart}
          name="prompt"
          text={prompts.version && !prompts.isChanged ? `${wish}, version ${prompts.version.number}` : `${wish}, not saved yet`}
          label="which prompt"
        /> ask
        <Part bind:open={openPart} name="model" text={model?.name ?? 'whom?'} label="which chat model" /> for
        <Part bind:open={openPart} name="task" text={asks.length === 0 ? 'what?' : few(asks)} label="what it is asked for" />: try it on
        <Part
          bind:open={openPart}
          name="on"
          text="{tries} of {counts?.accepted ?? '…'} accepted texts of {prompts.which.said(words.document)}"
          label="which texts"
        />, run it over <Part
          bind:open={openPart}
          name="stays"
          text="the rest: {stays[prompts.on.stays]}"
          label="over which of the rest"
        />.
      </p>
      {#if openPart !== ''}
        <div class="choice" role="group" aria-label="choice">
          {#if openPart === 'prompt'}
            {#each prompts.prompts as p (p.id)}
              <div class="versions">
                <b>{p.name}</b>
                {#each p.versions as v (v.id)}<button
                    class="act"
                    aria-pressed={prompts.version?.id === v.id && !prompts.isChanged}
                    title="{v.by ?? 'a command'}{v.at ? `, ${new Date(v.at).toLocaleString('en-GB')}` : ''}"
                    onclick={() => {
                      prompts.open(v);
                      void prompts.fill();
                    }}>version {v.number}</button
                  >{/each}
              </div>
            {/each}
            <button class="act" onclick={() => void prompts.begin()}>a new one</button>
            {#if prompts.aside}<button
                class="act"
                onclick={() => {
                  prompts.back();
                  void prompts.fill();
                }}>back to what was being written</button
              >{/if}
            <label class="name"
              >its name <input
                class="field"
                bind:value={prompts.draft.name}
                oninput={written}
                maxlength="100"
                placeholder="such as Find all"
              /></label
            >
          {:else if openPart === 'model'}
            {#each prompts.models as m (m.id)}<label
                ><input type="radio" name="model" value={m.id} bind:group={prompts.draft.model} onchange={written} />
                {m.name} <span class="soft num">{m.remote}</span></label
              >{:else}<span class="soft">no chat model is connected yet: see below</span>{/each}
          {:else if openPart === 'task'}
            {#each [['classes', 'spans', words.nameOf], ['questions', 'answers', question], ['tags', 'tags', tag]] as const as [of, word, name] (of)}
              {#if prompts.all[of].length > 0}<div class="asked">
                  <span class="soft">{word}</span>
                  {#each prompts.all[of] as key (key)}<label
                      ><input type="checkbox" checked={prompts.draft.task[of].includes(key)} onchange={() => toggle(of, key)} />
                      {name(key)}</label
                    >{/each}
                </div>{/if}
            {/each}
          {:else if openPart === 'on'}
            <label>at most <input class="field num short" type="number" min="1" max="500" bind:value={prompts.on.limit} /> texts</label>
            <label
              >drawn by seed <input class="field num short" type="number" min="0" max="2147483647" bind:value={prompts.on.seed} /></label
            >
            <WhichItems which={prompts.which} {sets} {words} />
          {:else}
            {#each Object.entries(stays) as [value, word] (value)}<label
                ><input type="radio" bind:group={prompts.on.stays} {value} /> {word}</label
              >{/each}
          {/if}
        </div>
      {/if}
      <div class="write">
        <div class="side">
          <div class="head">
            <label for="prompt-words">The prompt</label>
            <span class="push"></span>
            {#each ['{classes}', '{questions}', '{tags}', '{form}'] as place (place)}<button
                class="act link num"
                title="filled in from the codebook"
                onclick={() => put(place)}>{place}</button
              >{/each}
          </div>
          <textarea
            id="prompt-words"
            class="field"
            rows="16"
            maxlength="20000"
            spellcheck="false"
            bind:this={field}
            bind:value={prompts.draft.words}
            oninput={written}
            aria-describedby="prompt-fault"></textarea>
          <p id="prompt-fault" class="why" role="status">{prompts.fault}</p>
        </div>
        <div class="side">
          <div class="head"><span>What the model is told before each text</span></div>
          <pre class="told" aria-label="what the model is told">{prompts.filled ?? ''}</pre>
        </div>
      </div>
      <div class="row">
        {#if prompts.isChanged}<button
            class="act"
            disabled={!prompts.canBeSaved || prompts.saving || prompts.beginning || prompts.fault !== ''}
            onclick={() => prompts.save()}>Save as version {prompts.next}</button
          >{/if}
        <button
          class="act main"
          disabled={unready || prompts.saving || prompts.beginning || prompts.fault !== '' || tries === 0 || model === null}
          onclick={() => prompts.try()}>{prompts.isChanged ? 'Save and try' : 'Try'} it on {tries} texts</button
        >
        <button
          class="act"
          disabled={unready || prompts.saving || prompts.beginning || prompts.fault !== '' || !counts?.rest || model === null}
          title="what it says becomes suggestions; a person decides"
          onclick={() => prompts.run()}>{prompts.isChanged ? 'Save and run' : 'Run'} it over the rest: {counts?.rest ?? '…'}</button
        >
        {#if expected && counts?.rest}<span class="soft"
            >which may take about <span class="num">{lasting(expected.seconds)}</span>{#if expected.cost !== null}
              and cost <span class="num">{expected.cost.toFixed(4)}</span>{/if}, going by its trial</span
          >{/if}
        {#if prompts.draft.name.trim() === ''}<button class="act link" onclick={() => (openPart = 'prompt')}>it needs a name</button>{/if}
        {#if model === null}<button class="act link" onclick={() => (openPart = 'model')}>whom does it ask?</button>{/if}
        {#if counts?.accepted === 0}<span class="soft">no text is accepted yet: it is tried where the truth is known</span>{/if}
      </div>
    </section>
  {/if}
  {#if prompts.trials.length > 0}
    <section class="mb-6" aria-label="trials">
      <h2>Trials <span class="soft">on accepted texts, whose truth is known</span></h2>
      <div class="list" role="group" aria-label="trials">
        {#each prompts.trials as t (t.id)}
          <button class="trial" aria-pressed={tried?.id === t.id} onclick={() => prompts.show(tried?.id === t.id ? null : t)}>
            <span><b>{t.prompt}</b>, version <span class="num">{t.number}</span></span>
            <span class="soft">{t.model ?? 'a model that is gone'}</span>
            {#if goesOn(t)}<span class="bar"><Progressbar progress={Math.floor((100 * t.done) / Math.max(1, t.total))} size="h-2" /></span>
            {:else}<span class="soft"><span class="num">{t.done}</span> texts{t.state === 'done' ? '' : `, ${stateWord[t.state]}`}</span
              >{/if}
          </button>
        {/each}
      </div>
      {#if tried}
        <div class="row">
          {#if goesOn(tried)}<span role="status">{stateWord[tried.state]}: <span class="num">{tried.done} of {tried.total}</span></span>
            <button class="act" onclick={() => prompts.act(tried, 'cancel')}>Stop</button>
          {:else if tried.done < tried.total || tried.figures.failed.length > 0}
            <button class="act" onclick={() => prompts.act(tried, 'resume')}
              >{tried.done < tried.total ? 'Go on' : `Ask again about ${tried.figures.failed.length}`}</button
            >
          {/if}
          {#if tried.figures.items > 0}<a class="act" href={href(tried.texts[0]?.item ?? 0, tried.id, null).replace(/\?.*/, '')}
              >Side by side with what is accepted</a
            >{/if}
          <label
            >held against
            <select
              class="field"
              value={prompts.against ?? ''}
              onchange={(e) => prompts.show(tried, e.currentTarget.value === '' ? null : Number(e.currentTarget.value))}
            >
              <option value="">nothing</option>
              {#each prompts.trials.filter((t) => t.id !== tried.id) as t (t.id)}<option value={t.id}
                  >{t.prompt}, version {t.number} ({t.done} texts)</option
                >{/each}
            </select></label
          >
          {#if prompts.version && (prompts.isChanged || prompts.version.id !== tried.version)}
            <button
              class="act"
              disabled={unready || prompts.saving || prompts.beginning || prompts.fault !== '' || model === null}
              onclick={() => prompts.try(tried.id)}
              >{prompts.isChanged ? `Save and try version ${prompts.next}` : `Try version ${prompts.version.number}`} on the same texts</button
            >
          {/if}
        </div>
        {#if tried.error !== ''}<p class="why">{tried.error}</p>{/if}
        <Figures figures={tried.figures} {words} />
        {#each tried.figures.failed.slice(0, 10) as f (f.item)}<div class="why">
            <span class="num">{f.path ?? 'a text that is gone'}</span>: {f.reason}
          </div>{/each}
        {#if tried.against}<Gain gain={tried.against} {words} href={(item) => href(item)} />{/if}
      {/if}
    </section>
  {/if}
  {#if prompts.list.runs.some((r) => r.prompt)}<section class="mb-6"><Runs list={prompts.list} /></section>{/if}
  {#if ready}<ChatModels {prompts} {owner} {addresses} />{/if}
</Shell>

<style>
  .versions,
  .asked {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    width: 100%;
  }
  .versions [aria-pressed='true'] {
    border-color: var(--primary);
    box-shadow: inset 0 0 0 1px var(--primary);
  }
  .name input {
    width: 260px;
  }
  .short {
    width: 110px;
  }
  .write {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 16px;
    margin-top: 10px;
  }
  .side {
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  .head {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 10px;
    align-items: baseline;
    font-weight: 600;
    margin-bottom: 4px;
    min-height: 27px;
  }
  .push {
    flex: 1;
  }
  textarea,
  .told {
    font: 13px/1.5 var(--font-mono);
  }
  .told {
    flex: 1 1 0;
    min-height: 0;
    overflow: auto;
    background: var(--sunk);
    border-radius: 4px;
    padding: 8px 12px;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    margin-bottom: 24px;
  }
  .why {
    color: var(--accent-text);
    overflow-wrap: anywhere;
    min-height: 20px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: center;
    margin: 8px 0;
  }
  .row label {
    white-space: nowrap;
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .list {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .trial {
    display: inline-flex;
    gap: 6px;
    align-items: baseline;
    border: 1px solid var(--line);
    border-radius: 4px;
    background: var(--panel);
    padding: 4px 10px;
    cursor: pointer;
  }
  .trial[aria-pressed='true'] {
    border-color: var(--primary);
    box-shadow: inset 0 0 0 1px var(--primary);
  }
  .bar {
    width: 90px;
    align-self: center;
  }
</style>
