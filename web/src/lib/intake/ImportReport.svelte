<script lang="ts">
  /** What became of an import: its files, its labels, what did not come in; stopped and tried again from here. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LabelOptions from '$lib/ui/LabelOptions.svelte';
  import ReportList from './ReportList.svelte';
  import { states, words } from './words';
  import { untrack } from 'svelte';

  let {
    of: current,
    files,
    changed,
    made
  }: {
    of: Schemas['Import'];
    files: Schemas['ImportFile'][];
    /** something was asked of the server: look again */
    changed: () => Promise<void>;
    /** another import was made of the label files beside these pictures */
    made: (id: number) => Promise<void>;
  } = $props();

  const project = useProject();
  let beside = $state({ format: 'coco', as: 'labels', empty: 'unlabelled' });
  let error = $state('');
  let busy = $state(false);
  const at = $derived({ params: { path: { project: project.id, import: current.id } } });
  const goes = $derived(current.state === 'receiving' || current.state === 'working');
  // what was found is what is offered
  $effect(() => {
    const first = current.noticed[0]?.format;
    if (first) untrack(() => (beside.format = first));
  });

  async function attempt(work: () => Promise<unknown>) {
    error = '';
    busy = true;
    try {
      await work();
      await changed();
    } catch (e) {
      error = (e as Error).message;
    } finally {
      busy = false;
    }
  }
  const takeBeside = () =>
    attempt(async () => made((await ask(api.POST('/projects/{project}/imports/{import}/beside', { ...at, body: beside }))).id));
</script>

<section class="card mb-4" aria-label="report">
  <div class="top">
    <h2>
      Import {current.id}:
      {states[current.state]}
      {#each Object.entries(current.counts) as [state, n] (state)}<span class="count"
          ><span class="num">{n}</span> {words[state] ?? state}</span
        >{/each}
      {#if current.state === 'working' && current.done > 0}<span class="count"
          >labels of <span class="num">{current.done}</span> {current.done === 1 ? 'picture' : 'pictures'} read</span
        >{/if}
    </h2>
    <span class="push"></span>
    {#if current.state === 'failed' || (current.counts.failed ?? 0) > 0}<button
        class="act main"
        disabled={busy}
        onclick={() => attempt(() => ask(api.POST('/projects/{project}/imports/{import}/retry', at)))}>Try again</button
      >{/if}
    {#if goes}<button
        class="act"
        disabled={busy}
        title="what has come in stays"
        onclick={() => attempt(() => ask(api.DELETE('/projects/{project}/imports/{import}', at)))}>Stop</button
      >{/if}
  </div>
  <ErrorNote message={error} />
  {#if current.error !== ''}<ErrorNote message={current.error} />{/if}
  {#if current.noticed.length > 0}
    <form
      aria-label="label files beside the pictures"
      onsubmit={(e) => {
        e.preventDefault();
        void takeBeside();
      }}
    >
      <strong>Label files lie beside these pictures:</strong>
      {current.noticed.map((n) => `${n.label} (${n.files} ${n.files === 1 ? 'file' : 'files'})`).join(', ')}
      <div class="what">
        <LabelOptions bind:options={beside} />
        <button class="act main" disabled={busy}>Take them in</button>
      </div>
    </form>
  {/if}
  {#if current.labels}
    <p class="mt-2">
      <span class="num">{current.labels.objects}</span> objects on <span class="num">{current.labels.items}</span> items: {current.labels
        .accepted} accepted, {current.labels.submitted} submitted with findings, {current.labels.nothing} with nothing there,
      {current.labels.unlabelled} left unlabelled; {current.labels.known} were there already.
    </p>
    {#key `${current.id} ${current.state}`}
      <ReportList importId={current.id} list="skipped" total={current.labels.skipped_count} first={current.labels.skipped} />
      {#each current.labels.notices as n, i (i)}<p class="soft">{n.what} ({n.count})</p>{/each}
      <ReportList importId={current.id} list="findings" total={current.labels.findings_count} first={current.labels.findings} />
    {/key}
  {/if}
  {#if files.length > 0}
    <table class="dense mt-2">
      <thead><tr><th>file</th><th>what became of it</th><th>why</th></tr></thead>
      <tbody>
        {#each files.slice(0, 200) as file (file.id)}<tr data-state={file.state}
            ><td>{file.path}</td><td>{words[file.state] ?? file.state}</td><td>{file.state === 'received' ? file.progress : file.reason}</td
            ></tr
          >{/each}
      </tbody>
    </table>
  {/if}
</section>

<style>
  .top,
  .what {
    display: flex;
    gap: 12px;
    align-items: center;
  }
  .what {
    gap: 20px;
    margin-bottom: 10px;
  }
  .push {
    flex: 1;
  }
  .count {
    font-weight: 400;
    margin-left: 10px;
  }
  tr[data-state='refused'] td {
    color: var(--accent-text);
  }
</style>
