<script lang="ts">
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { formats } from '$lib/state/formats';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Message from '$lib/ui/Message.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { onMount } from 'svelte';

  /** A recipe: what goes in on the left, what comes out on the right, one button. */
  const project = useProject();
  let releases = $state<Schemas['Release'][]>([]);
  let sets = $state<Schemas['Set'][]>([]);
  let classes = $state<Schemas['CodebookClass'][]>([]);
  let census = $state<Schemas['Census'] | null>(null);
  let error = $state('');
  let note = $state('');
  let withSplit = $state(true);
  let split = $state({ train: 80, val: 10, test: 10, seed: 1 });
  let recipe = $state({
    states: 'accepted' as 'accepted' | 'any',
    with_unlabelled: false,
    classes: [] as string[],
    sets: [] as string[],
    names: false
  });
  let pictures = $state(true);
  let recipeError = $state('');

  const body = $derived({ ...recipe, split: withSplit ? split : null });
  const names = $derived(Object.fromEntries(classes.map((c) => [c.key, c.name])));

  async function load() {
    releases = (await ask(api.GET('/projects/{project}/releases', parts(project.id)))).data;
  }
  onMount(() => {
    Promise.all([
      load(),
      ask(api.GET('/projects/{project}/sets', parts(project.id))).then((s) => (sets = s.data)),
      ask(api.GET('/projects/{project}/codebook', parts(project.id))).then((c) => (classes = c.document.classes))
    ]).catch((e) => (error = e.message));
    const timer = setInterval(() => {
      if (
        releases.some(
          (r) => r.state === 'waiting' || r.state === 'working' || r.editions.some((e) => e.state === 'waiting' || e.state === 'working')
        )
      )
        void load().catch(() => {});
    }, 1200);
    return () => clearInterval(timer);
  });

  let asked = 0;
  $effect(() => {
    const wanted = $state.snapshot(body);
    const mine = ++asked;
    ask(api.POST('/projects/{project}/releases/preview', { ...parts(project.id), body: { recipe: wanted } }))
      .then((c) => {
        if (mine === asked) [census, recipeError] = [c, ''];
      })
      .catch((e) => {
        if (mine === asked) [census, recipeError] = [null, e.message];
      });
  });

  async function attempt(work: () => Promise<unknown>) {
    error = '';
    try {
      await work();
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }
  const toggle = (list: string[], entry: string) => (list.includes(entry) ? list.filter((e) => e !== entry) : [...list, entry]);
  const most = $derived(Math.max(1, ...Object.values(census?.classes ?? {})));
  const size = (n: number) => (n > 1e6 ? `${(n / 1e6).toFixed(1)} MB` : `${Math.ceil(n / 1e3)} kB`);
  const write = (number: number, format: Schemas['Format']) =>
    attempt(() =>
      ask(
        api.POST('/projects/{project}/releases/{number}/editions', {
          params: { path: { project: project.id, number } },
          body: { format, pictures, ...(together && isYolo(format) && { layout: 'together' as const }), frames: chosen }
        })
      )
    );
  const of = (number: number) => ({ params: { path: { project: project.id, number } } });
  const states: Record<Schemas['Release']['state'], string> = {
    waiting: 'waiting for its turn',
    working: 'being written',
    done: 'done',
    failed: 'could not be written'
  };
  let together = $state(false);
  /** of clips, in a format of pictures */
  let frames = $state('');
  const chosen = $derived(frames.trim() === '' ? 'keys' : frames.trim());
  const holdsTracks = (format: string) => ['mot', 'nifti', 'cuboids', 'kitti', 'skeno'].includes(format);
  const framesOf = (format: string) => (chosen === 'keys' || holdsTracks(format) ? '' : chosen);
  const isYolo = (format: string) => format.startsWith('yolo');
  const layout = (format: string) => (together && isYolo(format) ? 'together' : '');
  const missing = (r: Schemas['Release']) =>
    formats.filter(
      ([f]) =>
        !r.editions.some(
          (e) => e.format === f && e.pictures === pictures && e.layout === layout(f) && e.frames === framesOf(f) && e.state !== 'failed'
        )
    );
</script>

<Shell title="Release" {project}>
  <ErrorNote message={error} />
  <div class="two mb-6">
    <section class="card" aria-label="recipe">
      <h2 class="mb-2">What goes in</h2>
      <div class="q">items</div>
      <label><input type="radio" bind:group={recipe.states} value="accepted" /> accepted only</label>
      <label><input type="radio" bind:group={recipe.states} value="any" /> in any state, as far as labelled</label>
      <label><input type="checkbox" bind:checked={recipe.with_unlabelled} /> also those nobody labelled (listed as such)</label>
      <div class="q">sets</div>
      <div class="chips">
        {#each sets as set (set.path)}<label class="chip"
            ><input
              type="checkbox"
              checked={recipe.sets.length === 0 || recipe.sets.includes(set.path)}
              onchange={() => (recipe.sets = toggle(recipe.sets.length === 0 ? sets.map((s) => s.path) : recipe.sets, set.path))}
            />
            {set.path || '(top)'}</label
          >{/each}
      </div>
      <div class="q">classes</div>
      <div class="chips">
        {#each classes as c (c.key)}<label class="chip"
            ><input
              type="checkbox"
              checked={recipe.classes.length === 0 || recipe.classes.includes(c.key)}
              onchange={() => (recipe.classes = toggle(recipe.classes.length === 0 ? classes.map((k) => k.key) : recipe.classes, c.key))}
            />
            {c.name}</label
          >{/each}
      </div>
      <div class="q">split</div>
      <label><input type="checkbox" bind:checked={withSplit} /> into train, val and test; parts given before are kept</label>
      {#if withSplit}
        <div class="split">
          {#each ['train', 'val', 'test'] as const as p (p)}<label
              >{p} <input class="field num" type="number" min="0" max="100" bind:value={split[p]} /> %</label
            >{/each}
          <label>seed <input class="field num" type="number" bind:value={split.seed} /></label>
        </div>
      {/if}
      <div class="q">people</div>
      <label><input type="checkbox" bind:checked={recipe.names} /> with the names of those who labelled, on each mark</label>
    </section>
    <section class="card" aria-label="what comes out">
      <h2 class="mb-2">What comes out</h2>
      <ErrorNote message={recipeError} />
      {#if census}
        <p class="big">
          <span class="num">{census.marks}</span> marks on <span class="num">{census.items.objects + census.items.nothing}</span> labelled pictures
        </p>
        <p class="soft">
          {census.items.objects} with objects · {census.items.nothing} with nothing there · {census.items.unlabelled} not labelled
        </p>
        <div class="q">balance</div>
        {#each classes.filter((c) => census?.classes[c.key]) as c (c.key)}
          <div class="balance">
            <span>{c.name}</span><span class="bar"><span style:width="{(100 * (census.classes[c.key] ?? 0)) / most}%"></span></span><span
              class="num">{census.classes[c.key]}</span
            >
          </div>
        {/each}
        <div class="q">size of the objects, shorter side</div>
        <p>
          {#each Object.entries(census.sizes) as [word, n] (word)}<span class="mr-4">{word} <span class="num">{n}</span></span>{/each}
        </p>
        {#if withSplit}<div class="q">split</div>
          <p>
            {#each ['train', 'val', 'test'] as p (p)}<span class="mr-4">{p} <span class="num">{census.split[p] ?? 0}</span></span>{/each}
          </p>{/if}
        <div class="go">
          <input class="field" placeholder="note (optional)" aria-label="note" bind:value={note} />
          <button
            class="act main"
            disabled={census.items.objects + census.items.nothing + census.items.unlabelled === 0}
            onclick={() =>
              attempt(async () => {
                await ask(
                  api.POST('/projects/{project}/releases', { ...parts(project.id), body: { recipe: $state.snapshot(body), note } })
                );
                note = '';
              })}>Freeze release {(releases[0]?.number ?? 0) + 1}</button
          >
        </div>
      {/if}
    </section>
  </div>

  <h2 class="mb-1">Releases</h2>
  {#if releases.length === 0}<p class="soft">
      None yet. A release is a frozen, numbered snapshot; any format is written from it at any time.
    </p>{:else}
    <div class="flex gap-6 soft">
      <label class="soft"><input type="checkbox" bind:checked={pictures} /> write with pictures</label>
      <label class="soft"><input type="checkbox" bind:checked={together} /> YOLO in the older layout, text beside its picture</label>
      <label class="soft flex gap-2 items-center"
        >of clips the frames <input
          class="field frames num"
          bind:value={frames}
          placeholder="keys"
          title="keys, all, every:12 or list:0,5,9"
          list="frame-choices"
        /></label
      >
      <datalist id="frame-choices"><option value="keys"></option><option value="every:12"></option><option value="all"></option></datalist>
    </div>
    {#each releases as r (r.number)}
      <article class="card mt-2" aria-label="release {r.number}">
        <div class="line">
          <strong>Release {r.number}</strong>
          {#if r.state !== 'done'}<span
              >{states[r.state]}{#if r.error}: <Message text={r.error} />{:else}…{/if}</span
            >{/if}
          <span class="soft"
            >{new Date(r.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}{r.by ? `, ${r.by}` : ''}{r.note
              ? ` — ${r.note}`
              : ''}</span
          >
          {#if r.state === 'failed'}<button
              class="act"
              onclick={() => attempt(() => ask(api.POST('/projects/{project}/releases/{number}/retry', of(r.number))))}>Try again</button
            >{/if}
          {#if r.state !== 'done'}<button
              class="act"
              onclick={() => attempt(() => ask(api.DELETE('/projects/{project}/releases/{number}', of(r.number))))}
              >{r.state === 'failed' ? 'Drop it' : 'Stop'}</button
            >{/if}
        </div>
        {#if r.census}
          <p>
            {r.census.marks} marks, {r.census.items.objects} pictures with objects, {r.census.items.nothing} with nothing there, {r.census
              .items.unlabelled} not labelled; {r.recipe.states === 'any' ? 'any state' : 'accepted only'}{r.recipe.classes?.length
              ? `; only ${r.recipe.classes.map((k) => names[k] ?? k).join(', ')}`
              : ''}{r.recipe.split
              ? `; split ${r.recipe.split.train}/${r.recipe.split.val}/${r.recipe.split.test}, seed ${r.recipe.split.seed}`
              : ''}; codebook {r.codebook_version}
          </p>
        {/if}
        {#if r.editions.length > 0}
          <table class="dense my-1">
            <tbody>
              {#each r.editions as e (e.id)}
                <tr>
                  <td class="w-52"
                    >{formats.find(([f]) => f === e.format)?.[1]}{e.layout === 'together' ? ', older layout' : ''}{e.frames === ''
                      ? ''
                      : `, frames ${e.frames}`}{e.pictures ? '' : ', labels only'}</td
                  >
                  <td>
                    {#if e.state === 'done'}<a
                        class="plain"
                        href="/api/v1/projects/{project.id}/releases/{r.number}/editions/{e.id}/download"
                        download>download</a
                      > <span class="soft num">{size(e.bytes ?? 0)}</span>
                    {:else}{states[e.state]}{#if e.error}: <Message text={e.error} />{:else}…{/if}
                      <button
                        class="act link"
                        onclick={() =>
                          attempt(() =>
                            ask(
                              api.DELETE('/projects/{project}/releases/{number}/editions/{edition}', {
                                params: { path: { project: project.id, number: r.number, edition: e.id } }
                              })
                            )
                          )}>{e.state === 'failed' ? 'drop it' : 'stop'}</button
                      >{/if}
                  </td>
                  <td class="soft"
                    >{#if e.compared}read back: {e.compared.marks} marks, no difference{/if}{#each e.mapping as m, i (i)}<div>
                        {m.what} ({m.count})
                      </div>{/each}</td
                  >
                  <td class="num soft" title={e.sha256 ?? ''}>{e.sha256 ? `sha256 ${e.sha256.slice(0, 12)}…` : ''}</td>
                </tr>
              {/each}
            </tbody>
          </table>
        {/if}
        {#if r.state === 'done'}
          <div class="line">
            {#each missing(r) as [format, word] (format)}<button class="act" onclick={() => write(r.number, format)}>write {word}</button
              >{/each}
          </div>
        {/if}
      </article>
    {/each}
  {/if}
</Shell>

<style>
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 16px;
  }
  .q {
    font-weight: 600;
    color: var(--soft);
    font-size: 12.5px;
    margin: 10px 0 3px;
  }
  label {
    display: block;
  }
  .chips,
  .split,
  .line {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: center;
  }
  .split label {
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .split input {
    width: 66px;
  }
  .big {
    font-size: 18px;
    font-weight: 600;
  }
  .balance {
    display: grid;
    grid-template-columns: 120px 1fr 50px;
    gap: 8px;
    align-items: center;
    padding: 2px 0;
  }
  .bar {
    background: var(--sunk);
    height: 9px;
    border-radius: 2px;
    overflow: hidden;
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--primary);
  }
  .balance .num {
    text-align: right;
  }
  .go {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 10px;
    margin-top: 16px;
  }
  .frames {
    width: 110px;
    padding: 2px 8px;
  }
</style>
