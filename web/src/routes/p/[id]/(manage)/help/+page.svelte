<script lang="ts">
  /** Help of models is a sentence; each bold part opens its choice. It is tried on a few items before it is run over many. */
  import '$lib/ui/sentence.css';
  import { api, ask, type Schemas } from '$lib/api/client';
  import Connect from '$lib/help/Connect.svelte';
  import { Help, PREVIEWED } from '$lib/help/help.svelte';
  import Learned from '$lib/help/Learned.svelte';
  import NamesChoice from '$lib/help/NamesChoice.svelte';
  import Runs from '$lib/help/Runs.svelte';
  import WhichItems from '$lib/help/WhichItems.svelte';
  import Ways from '$lib/help/Ways.svelte';
  import Trials from '$lib/help/Trials.svelte';
  import Tried from '$lib/help/Tried.svelte';
  import { page } from '$app/state';
  import { useProject } from '$lib/state/context';
  import { parts } from '$lib/state/project.svelte';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Part from '$lib/ui/Part.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Words } from '$lib/words/words.svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const help = new Help(project.id);
  // come from Items, it is about what was looked at there
  help.which.narrow(page.url.searchParams.getAll('f'));
  const words = new Words(project.id);
  let sets = $state.raw<Schemas['Set'][]>([]);
  let count = $state<number | null>(null);
  let items = $state.raw<Schemas['Item'][]>([]);
  let openPart = $state('');
  let said = $state<Record<number, string>>({});
  let ready = $state(false);
  let accepted = $state<number | null>(null);

  onMount(() => {
    void (async () => {
      try {
        const [codebook, found, done] = await Promise.all([
          ask(api.GET('/projects/{project}/codebook', parts(project.id))),
          ask(api.GET('/projects/{project}/sets', parts(project.id))),
          ask(api.GET('/projects/{project}/items', { params: { path: { project: project.id }, query: { 'f[]': ['state:accepted'] } } }))
        ]);
        words.take(codebook);
        sets = found.data;
        accepted = done.total;
      } catch (e) {
        help.error = (e as Error).message;
        return;
      }
      await help.load();
      ready = true;
    })();
    const timer = setInterval(() => {
      if (help.goesOn) void help.look();
    }, 1200);
    return () => {
      clearInterval(timer);
      help.close();
    };
  });
  // how many items the sentence is about, and the first of them, on which it is tried
  let asked = 0;
  $effect(() => {
    const conditions = help.which.conditions;
    const mine = ++asked;
    ask(
      api.GET('/projects/{project}/items', {
        params: { path: { project: project.id }, query: conditions.length > 0 ? { 'f[]': conditions } : {} }
      })
    )
      .then((list) => {
        if (mine === asked) [count, items] = [list.total, list.data];
      })
      .catch((e: Error) => {
        if (mine === asked) [count, items, help.error] = [null, [], e.message];
      });
  });
  const named = (of: Pick<Schemas['ModelNames'], 'classes' | 'tags'>) => [
    ...new Set(Object.values(of.classes).map((key) => words.nameOf(key))),
    ...new Set(Object.values(of.tags).map((key) => words.itemTags.find((t) => t.key === key)?.name ?? key))
  ];
  const mapped = $derived(
    [...named(help.names), ...help.questions.map((key) => words.document.attributes?.find((a) => a.key === key)?.name ?? key)].join(', ')
  );
  /** where among the items it was tried last */
  let at = $state(0);
  function tryFrom(from: number) {
    at = from < items.length ? from : 0;
    void help.try(items.slice(at, at + PREVIEWED).map((i) => i.id));
  }
  const stays = {
    beside: 'stays, and these come beside it',
    replace: 'stays, but earlier suggestions go',
    without: 'is left alone: only items without marks'
  } as const;
  const thenWord = $derived(
    help.wish.then === null
      ? 'nothing more is done'
      : help.wish.then === 'outline'
        ? 'each is outlined'
        : help.models.find((m) => m.id === help.wish.then)?.kind === 'skeletons'
          ? 'a skeleton is fitted in each'
          : 'each is answered by its looks'
  );
  const suggested = $derived(help.tried.reduce((n, t) => n + help.sure(t).length + help.sureWords(t).length, 0));
</script>

<Shell title="Help" {project}>
  {#snippet actions()}<Ways project={project.id} />{/snippet}
  <ErrorNote message={help.error} />
  {#if ready && help.finders.length === 0}
    <p class="mb-3">
      A model looks at pictures and suggests labels; a person decides. Learn one from what is accepted here, or connect one. About texts a
      <a class="plain" href="/p/{project.id}/help/prompts">prompt</a> is asked.
    </p>
  {/if}
  {#if help.model}
    <section class="card mb-6">
      <p class="sentence">
        Ask <Part bind:open={openPart} name="model" text={help.model.name} label="which model" /> about
        <Part bind:open={openPart} name="set" text="{count ?? '…'} items of {help.which.said(words.document)}" label="which items" />
        for <Part bind:open={openPart} name="classes" text={mapped === '' ? 'what?' : mapped} label="which classes" />, from
        <Part bind:open={openPart} name="from" text={help.wish.from.toFixed(2)} label="confidence" /> on; then <Part
          bind:open={openPart}
          name="then"
          text={thenWord}
          label="what comes then"
        />; what is there
        <Part bind:open={openPart} name="stays" text={stays[help.wish.stays]} label="what stays" />.
      </p>
      {#if openPart !== ''}
        <div class="choice" role="group" aria-label="choice">
          {#if openPart === 'model'}
            {#each help.finders as m (m.id)}
              <div class="model">
                <label
                  ><input type="radio" name="model" checked={m.id === help.wish.model} onchange={() => help.choose(m.id)} />
                  <b>{m.name}</b></label
                >
                {#if m.kind === 'connected'}
                  <span class="soft">{m.about}</span>
                  <span class="num soft">{m.address ?? 'without an address'}</span>
                  <button class="act" onclick={async () => (said[m.id] = await help.check(m))}>Is it there?</button>
                {:else}
                  <span class="soft">learned here, version <span class="num">{m.versions.find((v) => v.in_use)?.number ?? '?'}</span></span>
                {/if}
                {#if said[m.id]}<span role="status">{said[m.id]}</span>{/if}
                <button class="act link" title="what it has suggested stays" onclick={() => help.disconnect(m)}>take away</button>
              </div>
            {/each}
          {:else if openPart === 'set'}
            <WhichItems which={help.which} {sets} {words} />
          {:else if openPart === 'classes'}
            <NamesChoice {help} {words} />
          {:else if openPart === 'then'}
            <label
              ><input type="radio" name="then" checked={help.wish.then === null} onchange={() => help.follow(null)} /> nothing more is done</label
            >
            <label
              ><input type="radio" name="then" checked={help.wish.then === 'outline'} onchange={() => help.follow('outline')} /> each is outlined
              by cut-out</label
            >
            {#each help.followers as m (m.id)}<label
                ><input type="radio" name="then" checked={help.wish.then === m.id} onchange={() => help.follow(m.id)} />
                {m.kind === 'skeletons' ? 'a skeleton is fitted in each' : 'each is answered by its looks'}
                <span class="soft">({m.name})</span></label
              >{/each}
          {:else if openPart === 'from'}
            <label class="wide"
              ><input type="range" min="0" max="1" step="0.01" bind:value={help.wish.from} aria-label="confidence" />
              <span class="num">{help.wish.from.toFixed(2)}</span></label
            >
          {:else}
            {#each Object.entries(stays) as [value, word] (value)}<label
                ><input type="radio" bind:group={help.wish.stays} {value} /> {word}</label
              >{/each}
          {/if}
        </div>
      {/if}
      <div class="row">
        <button class="act" disabled={!help.isWanted || items.length === 0 || help.trying} onclick={() => tryFrom(0)}
          >{help.trying ? 'Trying…' : `Try it on ${Math.min(PREVIEWED, items.length)}`}</button
        >
        {#if help.tried.length > 0 && items.length > PREVIEWED}<button
            class="act"
            disabled={help.trying}
            onclick={() => tryFrom(at + PREVIEWED)}>on others</button
          >{/if}
        <button
          class="act"
          disabled={!help.isWanted || !count}
          title="on accepted items, whose truth is known; nothing is stored on them"
          onclick={() => help.measure()}>Measure it</button
        >
        <button class="act main" disabled={!help.isWanted || !count} onclick={() => help.run()}>Run over {count ?? ''} items</button>
        {#if !help.isWanted}<span class="soft">nothing the model knows is a class or tag here: say which is which</span>{/if}
        {#if help.tried.length > 0}
          <label class="slide"
            >from <input type="range" min="0" max="1" step="0.01" bind:value={help.wish.from} aria-label="confidence of what was tried" />
            <span class="num">{help.wish.from.toFixed(2)}</span></label
          >
          <span role="status"><span class="num">{suggested}</span> suggested on <span class="num">{help.tried.length}</span> items</span>
        {/if}
      </div>
      <p class="stage">
        {#if help.stage}
          New pictures are asked of <b>{help.models.find((m) => m.id === help.stage?.model)?.name ?? 'a model that is gone'}</b> for
          {named(help.stage).join(', ') || 'what it answers'}, from
          <span class="num">{help.stage.from.toFixed(2)}</span> on, before a labeller sees them.
          {#if help.trouble}<span class="trouble">It can’t be asked any more: {help.trouble}.</span>{/if}
          <button class="act link" onclick={() => help.first(false)}>no longer</button>
        {:else}
          <button
            class="act link"
            disabled={!help.isWanted}
            title="pictures that come in, and those nobody has begun; of a learned model always the version in use"
            onclick={() => help.first(true)}>Ask it about every new picture, before a labeller sees it</button
          >
        {/if}
      </p>
      {#if help.tried.length > 0}
        <div class="tried" role="group" aria-label="tried">
          {#each help.tried as tried (tried.item.id)}<Tried {tried} from={help.wish.from} own={help.own} {words} />{/each}
        </div>
      {/if}
    </section>
  {/if}
  {#if help.trials.length > 0}<Trials
      {help}
      {words}
      href={(path) => `/p/${project.id}/items?${new URLSearchParams([['f', `name:${path}`]])}`}
    />{/if}
  {#if help.list.runs.length > 0}<section class="mb-6"><Runs list={help.list} /></section>{/if}
  {#if ready}<Learned {help} {words} {accepted} />{/if}
  {#if ready}<Connect {help} {words} owner={session.user?.is_owner ?? false} item={items[0] ?? null} />{/if}
</Shell>

<style>
  .model {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    width: 100%;
  }
  .wide {
    flex: 1;
  }
  .wide input {
    flex: 1;
    accent-color: var(--primary);
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 16px;
    align-items: center;
    margin-top: 8px;
  }
  .trouble {
    color: var(--accent-text);
  }
  .stage {
    margin-top: 10px;
  }
  .slide {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .slide input {
    width: 220px;
    accent-color: var(--primary);
  }
  .tried {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 10px;
    margin-top: 12px;
  }
</style>
