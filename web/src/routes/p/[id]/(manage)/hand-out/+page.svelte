<script lang="ts">
  import '$lib/ui/sentence.css';
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Part from '$lib/ui/Part.svelte';
  import LongWork from '$lib/ui/LongWork.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import StateBar from '$lib/ui/StateBar.svelte';
  import { onMount } from 'svelte';

  /** Handing out is a sentence; each bold part opens its choice. */
  const project = useProject();
  let assignments = $state<Schemas['Assignment'][]>([]);
  let members = $state<Schemas['Member'][]>([]);
  let sets = $state<Schemas['Set'][]>([]);
  let classes = $state<string[]>([]);
  let error = $state('');
  let began = $state<number | null>(null);
  let takesBack = $state<number | null>(null);
  let count = $state<number | null>(null);
  /** of these: accepted ones, and ones somebody is at */
  let there = $state({ accepted: 0, under_way: 0 });
  /** what a draw by difference covers */
  let lot = $state.raw<{
    cover: { most: number; mean: number };
    random: { most: number; mean: number };
    pool: number;
    compared: number;
    unknown: number;
  } | null>(null);
  let doubt = $state('');
  let openPart = $state('');
  let sentence = $state({
    sets: [] as string[],
    pool: 'new' as 'new' | 'all',
    choose: 'all' as 'all' | 'first' | 'random' | 'difference' | 'doubt',
    count: 20,
    seed: 1,
    again: null as 'on_top' | 'blind' | null,
    labellers: [] as number[],
    reviewers: [] as number[],
    note: '',
    priority: 0,
    order: 'came' as 'came' | 'doubt',
    /** confidence from which on suggestions count as looked at */
    sure: null as number | null
  });
  const chosen = $derived(
    {
      all: `all ${count ?? '…'} items`,
      first: `the first ${count ?? '…'} items`,
      random: `${count ?? '…'} items at random`,
      difference: `the ${count ?? '…'} items least like each other`,
      doubt: `the ${count ?? '…'} items models are least sure of`
    }[sentence.choose]
  );
  const urgency = $derived(
    sentence.priority === 0
      ? 'at usual priority'
      : sentence.priority > 0
        ? `before others (+${sentence.priority})`
        : `after others (${sentence.priority})`
  );
  const decided = $derived(
    sentence.sure === null ? 'every suggestion decided by hand' : `suggestions from ${sentence.sure.toFixed(2)} on taken once all was seen`
  );

  const body = $derived({
    ...sentence,
    count: sentence.choose === 'all' ? null : sentence.count,
    seed: sentence.choose === 'random' || sentence.choose === 'difference' ? sentence.seed : null
  });
  const canLabel = $derived(members.filter((m) => m.role !== 'guest'));
  const canReview = $derived(members.filter((m) => m.role === 'manager' || m.role === 'reviewer'));

  async function load() {
    const [a, p, s, c] = await Promise.all([
      ask(api.GET('/projects/{project}/assignments', parts(project.id))),
      ask(api.GET('/projects/{project}/people', parts(project.id))),
      ask(api.GET('/projects/{project}/sets', parts(project.id))),
      ask(api.GET('/projects/{project}/codebook', parts(project.id)))
    ]);
    [assignments, members, sets] = [a.data, p.data, s.data];
    classes = c.document.classes.map((k) => k.name);
  }
  onMount(() => load().catch((e) => (error = e.message)));

  let asked = 0;
  $effect(() => {
    const wanted = $state.snapshot(body);
    const mine = ++asked;
    ask(api.POST('/projects/{project}/assignments/preview', { ...parts(project.id), body: wanted }))
      .then((answer) => {
        if (mine !== asked) return;
        [count, lot, doubt] = [answer.items, answer.lot, ''];
        there = { accepted: answer.accepted, under_way: answer.under_way };
      })
      .catch((e: Error) => {
        if (mine !== asked) return;
        [count, lot, doubt] = [null, null, e.message];
        there = { accepted: 0, under_way: 0 };
      });
  });

  function toggle<T>(list: T[], entry: T): T[] {
    return list.includes(entry) ? list.filter((e) => e !== entry) : [...list, entry];
  }
  const names = (ids: number[]) =>
    members
      .filter((m) => ids.includes(m.id))
      .map((m) => m.name.split(' ')[0])
      .join(', ');

  async function handOut() {
    error = '';
    try {
      const made = await ask(api.POST('/projects/{project}/assignments', { ...parts(project.id), body: $state.snapshot(body) }));
      began = made.chore ?? null;
      sentence.note = '';
      openPart = '';
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
    sentence = { ...sentence };
  }

  function ended() {
    load().catch((e) => (error = e.message));
    sentence = { ...sentence };
  }
  async function withdraw(assignment: number) {
    error = '';
    try {
      const answer = await ask(
        api.DELETE('/projects/{project}/assignments/{assignment}', { params: { path: { project: project.id, assignment } } })
      );
      takesBack = answer.chore;
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
    sentence = { ...sentence };
  }
</script>

<Shell title="Hand out" {project}>
  <ErrorNote message={error} />
  <section class="card mb-6">
    <p class="sentence">
      Give <Part bind:open={openPart} name="choose" text={chosen} label="how many items" />
      <Part
        bind:open={openPart}
        name="pool"
        text={sentence.pool === 'new' ? 'nobody has yet' : 'whoever has them'}
        label="from which pool"
      />
      of
      <Part
        bind:open={openPart}
        name="sets"
        text={sentence.sets.length === 0 ? 'all sets' : sentence.sets.map((s) => s || '(top)').join(', ')}
        label="which sets"
      />
      to
      <Part
        bind:open={openPart}
        name="labellers"
        text={sentence.labellers.length === 0 ? 'whom?' : names(sentence.labellers)}
        label="to which labellers"
      />,
      <Part
        bind:open={openPart}
        name="reviewers"
        text={sentence.reviewers.length === 0 ? 'accepted without review' : `reviewed by ${names(sentence.reviewers)}`}
        label="which reviewers"
      />,
      <Part bind:open={openPart} name="priority" text={urgency} label="priority" />,
      <Part
        bind:open={openPart}
        name="order"
        text={sentence.order === 'came' ? 'as they came in' : 'doubtful ones first'}
        label="in which order"
      />,
      <Part bind:open={openPart} name="sure" text={decided} label="what counts as looked at" />,
      <Part bind:open={openPart} name="note" text={sentence.note === '' ? 'without a note' : 'with a note'} label="a note" />.
    </p>
    {#if there.accepted > 0}
      <fieldset class="again" aria-label="what becomes of accepted items">
        <legend
          ><span class="num">{there.accepted}</span>
          {there.accepted === 1 ? 'of these is' : 'of these are'} accepted. The new pass</legend
        >
        <label><input type="radio" bind:group={sentence.again} value="on_top" /> works on top of the accepted labels</label>
        <label><input type="radio" bind:group={sentence.again} value="blind" /> labels blind, without seeing them</label>
        <span class="soft">Until it is accepted itself, the labels stay accepted and releasable as they are.</span>
      </fieldset>
    {/if}
    {#if there.under_way > 0}<p class="soft" role="status">
        <span class="num">{there.under_way}</span>
        {there.under_way === 1 ? 'is' : 'are'} handed out or under review already: a second person works on the same labels.
      </p>{/if}
    {#if doubt !== ''}<p class="soft" role="status">{doubt}</p>{/if}
    {#if lot}
      <div class="cover" role="status" aria-label="what the choice covers">
        {#each [['by difference', lot.cover], ['at random', lot.random]] as const as [word, cover] (word)}
          <span>{word}</span>
          <span class="bar"><span style:width="{(100 * cover.most) / Math.max(lot.cover.most, lot.random.most, 0.001)}%"></span></span>
          <span
            >the picture least like any chosen or labelled one is <span class="num">{cover.most.toFixed(2)}</span> away, on average
            <span class="num">{cover.mean.toFixed(2)}</span></span
          >
        {/each}
        {#if lot.compared < lot.pool - lot.unknown || lot.unknown > 0}<span class="note soft"
            >{lot.compared} of {lot.pool} pictures compared{lot.unknown > 0
              ? `; ${lot.unknown} have not been looked at yet`
              : ', chosen by the seed'}</span
          >{/if}
      </div>
    {/if}
    <p class="soft">Asked: {classes.join(', ') || 'no classes yet'}, with their questions.</p>
    {#if openPart !== ''}
      <div class="choice" role="group" aria-label="choice">
        {#if openPart === 'choose'}
          {#each [['all', 'all'], ['first', 'the first by name'], ['random', 'at random'], ['difference', 'by difference: least like each other and what is labelled'], ['doubt', 'what models are least sure of']] as [value, word] (value)}
            <label><input type="radio" bind:group={sentence.choose} {value} /> {word}</label>
          {/each}
          {#if sentence.choose !== 'all'}<label
              >how many <input class="field small num" type="number" min="1" bind:value={sentence.count} /></label
            >{/if}
          {#if sentence.choose === 'random' || sentence.choose === 'difference'}<label title="the same seed draws the same items"
              >seed <input class="field small num" type="number" bind:value={sentence.seed} /></label
            >{/if}
        {:else if openPart === 'pool'}
          <label><input type="radio" bind:group={sentence.pool} value="new" /> only items nobody has yet</label>
          <label><input type="radio" bind:group={sentence.pool} value="all" /> any item, also a second time</label>
        {:else if openPart === 'sets'}
          {#each sets as set (set.path)}
            <label
              ><input
                type="checkbox"
                checked={sentence.sets.includes(set.path)}
                onchange={() => (sentence.sets = toggle(sentence.sets, set.path))}
              />
              {set.path || '(top)'} <span class="soft num">{set.new} of {set.items} new</span></label
            >
          {:else}<span>No pictures yet: <a class="plain" href="/p/{project.id}/bring-in">bring some in</a>.</span>{/each}
        {:else if openPart === 'labellers'}
          {#each canLabel as m (m.id)}<label
              ><input
                type="checkbox"
                checked={sentence.labellers.includes(m.id)}
                onchange={() => (sentence.labellers = toggle(sentence.labellers, m.id))}
              />
              {m.name} <span class="soft">{m.role}</span></label
            >{/each}
          <a class="plain" href="/p/{project.id}/people">invite more</a>
        {:else if openPart === 'reviewers'}
          {#each canReview as m (m.id)}<label
              ><input
                type="checkbox"
                checked={sentence.reviewers.includes(m.id)}
                onchange={() => (sentence.reviewers = toggle(sentence.reviewers, m.id))}
              />
              {m.name} <span class="soft">{m.role}</span></label
            >{/each}
          <span class="soft">Nobody chosen: what is submitted is accepted at once.</span>
        {:else if openPart === 'priority'}
          <label>priority <input class="field small num" type="number" min="-10" max="10" bind:value={sentence.priority} /></label><span
            class="soft">higher comes first; 0 is usual</span
          >
        {:else if openPart === 'order'}
          <label><input type="radio" bind:group={sentence.order} value="came" /> in the order in which they came in</label>
          <label><input type="radio" bind:group={sentence.order} value="doubt" /> those first of which models are least sure</label>
          <span class="soft">The queue follows while models look at more.</span>
        {:else if openPart === 'sure'}
          <label
            ><input type="radio" name="sure" checked={sentence.sure === null} onchange={() => (sentence.sure = null)} /> a person decides about
            each suggestion; the others are left behind</label
          >
          <label
            ><input type="radio" name="sure" checked={sentence.sure !== null} onchange={() => (sentence.sure = 0.9)} /> those from
            <input
              class="field small num"
              type="number"
              min="0.05"
              max="1"
              step="0.05"
              aria-label="confidence from which suggestions count as looked at"
              value={sentence.sure ?? 0.9}
              onchange={(e) => (sentence.sure = e.currentTarget.value === '' ? null : e.currentTarget.valueAsNumber)}
            /> on count as looked at once the whole picture was seen close up</label
          >
        {:else}
          <label class="wide">note for the labellers <textarea class="field" rows="2" bind:value={sentence.note}></textarea></label>
        {/if}
      </div>
    {/if}
    <button
      class="act main mt-3"
      disabled={!count || sentence.labellers.length === 0 || (there.accepted > 0 && sentence.again === null)}
      onclick={handOut}>Hand out {count ?? ''} {count === 1 ? 'item' : 'items'}</button
    >
    {#if sentence.labellers.length === 0}<span class="soft ml-2">say to whom first</span
      >{:else if there.accepted > 0 && sentence.again === null}<span class="soft ml-2">say how the new pass works</span
      >{:else if count === 0}<span class="soft ml-2">no item fits</span>{/if}
  </section>

  <LongWork kind="hand_out" {began} {ended} />
  <LongWork kind="withdraw" began={takesBack} {ended} />
  {#if assignments.length > 0}
    <table class="dense">
      <thead
        ><tr
          ><th>handed out</th><th>to</th><th>reviewed by</th><th>note</th><th>priority</th><th>items</th><th class="w-1/4">state</th><th
          ></th></tr
        ></thead
      >
      <tbody>
        {#each assignments as a (a.id)}
          <tr>
            <td>{new Date(a.at).toLocaleDateString('en-GB')}</td>
            <td>{a.labellers.map((p) => p.name).join(', ')}</td>
            <td>{a.needs_review ? a.reviewers.map((p) => p.name).join(', ') : 'no review'}</td>
            <td
              >{a.note}{#if a.rules.order === 'doubt'}<div class="soft">doubtful ones first</div>{/if}
              {#if typeof a.rules.sure === 'number'}<div class="soft">
                  from <span class="num">{a.rules.sure.toFixed(2)}</span> on taken once all was seen
                </div>{/if}</td
            >
            <td class="num">{a.priority}</td>
            <td class="num"
              >{a.items}{#if a.begun > 0}<br /><span class="soft">{a.begun} begun</span>{/if}</td
            >
            <td class="pt-2"><StateBar counts={a.states} label="assignment {a.id}" /></td>
            <td
              >{#if a.states.waiting}<button class="act link" title="what is begun stays" onclick={() => withdraw(a.id)}
                  >take back {a.states.waiting} waiting</button
                >{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</Shell>

<style>
  .cover {
    display: grid;
    grid-template-columns: auto 160px 1fr;
    gap: 3px 12px;
    align-items: center;
    margin: 4px 0 10px;
    font-size: 13.5px;
  }
  .cover .bar {
    height: 9px;
    background: var(--sunk);
    border-radius: 2px;
    overflow: hidden;
  }
  .cover .bar span {
    display: block;
    height: 100%;
    background: var(--primary);
  }
  .cover .note {
    grid-column: 1 / -1;
  }
  .wide {
    flex: 1;
  }
  .again {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 18px;
    border-left: 3px solid var(--accent);
    padding: 2px 0 2px 12px;
    margin: 4px 0 10px;
  }
  .again legend {
    float: left;
    margin-right: 4px;
  }
  .again label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .small {
    width: 90px;
  }
</style>
