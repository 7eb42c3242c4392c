<script lang="ts">
  /** Models the project learns from its accepted labels: their versions, and how good each is on what it has never seen. */
  import type { Schemas } from '$lib/api/client';
  import type { Words } from '$lib/words/words.svelte';
  import { Progressbar } from 'flowbite-svelte';
  import { goesOn, nameOfWord, type Help, type LearnedKind } from './help.svelte';
  import Outcome from './Outcome.svelte';
  import Whisker from './Whisker.svelte';

  let { help, words, accepted }: { help: Help; words: Words; accepted: number | null } = $props();
  let open = $state<number | null>(null);
  let made = $state.raw<Schemas['Outcome'] | null>(null);
  async function look(model: Schemas['Model'], version: number) {
    open = open === version ? null : version;
    made = null;
    if (open === null) return;
    const of = await help.outcome(model.id, version);
    if (open === version) made = of;
  }
  type Version = Schemas['ModelVersion'];
  type Of = Record<
    string,
    Partial<Record<'f1' | 'ap50' | 'ap' | 'precision' | 'recall' | 'alike' | 'accuracy', Schemas['Interval'] | null>> & { there: number }
  >;
  const kinds: { kind: LearnedKind; word: string; finds: string; main: string }[] = [
    { kind: 'regions', word: 'regions', finds: 'things that cover an area', main: 'F1 at IoU 0.5' },
    { kind: 'skeletons', word: 'skeletons', finds: 'nodes of skeletons', main: 'F1 at OKS 0.5' },
    { kind: 'looks', word: 'looks', finds: 'answers and tags', main: 'share right' }
  ];
  const hasSkeletons = $derived((words.document.classes ?? []).some((c) => c.skeleton !== undefined));
  const shown = $derived(kinds.filter((k) => k.kind !== 'skeletons' || hasSkeletons));
  const learned = $derived(help.models.filter((m) => m.kind !== 'connected'));
  const mainOf = (kind: string) => kinds.find((k) => k.kind === kind)?.main ?? '';
  /** a class, or a question with what it is about */
  const named = (key: string) => (key.includes(':') ? nameOfWord(words, key) : words.nameOf(key));
  const say: Record<Version['state'], string> = {
    waiting: 'waits for the worker',
    working: 'is learning',
    done: 'done',
    failed: 'failed',
    cancelled: 'stopped'
  };
  const things = (v: Version) => Object.entries((v.learned.things ?? {}) as Record<string, number>);
  const left = (v: Version) => Object.entries((v.learned.left ?? {}) as Record<string, string>);
</script>

<section class="mb-6" aria-label="learned here">
  <div class="row">
    <h2>Learned here</h2>
    <span class="soft">from {accepted ?? '…'} accepted pictures; one in four is held out and only measured by</span>
    <span class="grow"></span>
    {#each shown as k (k.kind)}
      {@const model = help.models.find((m) => m.kind === k.kind)}
      <button
        class="act"
        title="learn {k.finds} from what is accepted"
        disabled={model?.versions.some(goesOn)}
        onclick={() => help.learn(k.kind)}>Learn {k.word}{model && model.versions.length > 0 ? ' again' : ''}</button
      >
    {/each}
  </div>
  {#if learned.length > 0}
    <table class="dense" aria-label="versions">
      <thead><tr><th>model</th><th>version</th><th>learned from</th><th>on what was held out</th><th></th><th></th></tr></thead>
      <tbody>
        {#each learned as model (model.id)}
          {#each model.versions as v, i (v.id)}
            <tr class:use={v.in_use}>
              <td
                >{#if i === 0}<b>{model.name}</b>{/if}</td
              >
              <td
                ><span class="num">{v.number}</span>
                {#if v.in_use}<span class="tag">in use</span>{:else if v.better === false}<span
                    class="soft"
                    title="worse than the one in use, on the same items">not better</span
                  >{/if}</td
              >
              <td>
                {#if v.state === 'done'}
                  <span class="num">{v.learned.items}</span> pictures{#each things(v) as [key, n] (key)}, <span class="num">{n}</span>
                    {words.nameOf(key)}{/each}
                  <span class="soft">in {v.learned.seconds} s{v.at ? `, ${new Date(v.at).toLocaleDateString('en-GB')}` : ''}</span>
                {:else if goesOn(v)}
                  <div class="bar"><Progressbar progress={Math.round(100 * v.done)} size="h-2" /></div>
                  <span class="soft">{say[v.state]}</span>
                {:else}
                  <span class="soft">{say[v.state]}{v.error === '' ? '' : ':'}</span>
                  {#if v.error !== ''}<span class="why">{v.error}</span>{/if}
                {/if}
              </td>
              <td>
                {#if v.state === 'done'}
                  {#if v.figures.main}<Whisker of={v.figures.main} before={v.figures.before} label={mainOf(model.kind)} />
                    <span class="soft">{mainOf(model.kind)}, {v.figures.items} pictures</span>
                  {:else}<span class="soft">nothing was held out yet</span>{/if}
                {/if}
              </td>
              <td
                >{#if v.state === 'done'}<button class="act link" aria-expanded={open === v.id} onclick={() => look(model, v.id)}
                    >by class</button
                  >{/if}</td
              >
              <td class="acts">
                {#if goesOn(v)}<button class="act" onclick={() => help.version(model, v.id, 'cancel')}>Stop</button>
                {:else if v.state === 'done' && !v.in_use}<button class="act link" onclick={() => help.version(model, v.id, 'use')}
                    >use this one</button
                  >
                {:else if v.state === 'done' && i === 0 && help.finders.includes(model) && model.id !== help.wish.model}<button
                    class="act link"
                    onclick={() => help.choose(model.id)}>ask it</button
                  >{/if}
              </td>
            </tr>
            {#if open === v.id}
              <tr
                ><td></td><td colspan="5">
                  <table class="dense inner" aria-label="figures by class">
                    <thead
                      ><tr
                        ><th></th><th>held out</th>{#if model.kind === 'looks'}<th>right</th>{:else}<th>F1</th><th>precision</th><th
                            >recall</th
                          ><th>AP 0.5</th><th>AP 0.5–0.95</th><th>{model.kind === 'skeletons' ? 'OKS' : 'IoU'}</th>{/if}</tr
                      ></thead
                    >
                    <tbody>
                      {#each Object.entries((v.figures.of ?? {}) as Of) as [key, f] (key)}
                        <tr
                          ><td>{named(key)}</td><td class="num">{f.there}</td>
                          {#if model.kind === 'looks'}<td><Whisker of={f.accuracy} label="right" /></td>
                          {:else}{#each ['f1', 'precision', 'recall', 'ap50', 'ap', 'alike'] as const as figure (figure)}<td
                                ><Whisker of={f[figure]} label={figure} /></td
                              >{/each}{/if}
                        </tr>
                      {/each}
                    </tbody>
                  </table>
                  {#if made && made.suggested + made.said.suggested > 0}<Outcome of={made} />{/if}
                  {#each left(v) as [key, why] (key)}<div class="soft">{named(key)}: {why}</div>{/each}
                </td></tr
              >
            {/if}
          {/each}
        {/each}
      </tbody>
    </table>
  {/if}
</section>

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: baseline;
    margin-bottom: 6px;
  }
  h2 {
    font-size: 16px;
    font-weight: 650;
  }
  .grow {
    flex: 1;
  }
  .use > td {
    background: color-mix(in srgb, var(--primary) 7%, transparent);
  }
  .tag {
    white-space: nowrap;
    font-size: 11px;
    font-weight: 650;
    color: var(--primary);
    border: 1px solid currentColor;
    border-radius: 3px;
    padding: 0 4px;
  }
  .bar {
    display: inline-block;
    width: 140px;
    vertical-align: middle;
  }
  .why {
    color: var(--accent-text);
    overflow-wrap: anywhere;
  }
  .acts {
    white-space: nowrap;
  }
  .inner {
    margin: 2px 0 6px;
  }
</style>
