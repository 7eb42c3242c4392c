<script lang="ts">
  import { api, ask, type Schemas } from '$lib/api/client';
  import ImportReport from '$lib/intake/ImportReport.svelte';
  import TextColumns from '$lib/intake/TextColumns.svelte';
  import { states, words } from '$lib/intake/words';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import { dropped, Uploader } from '$lib/state/upload.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LabelOptions from '$lib/ui/LabelOptions.svelte';
  import LongWork from '$lib/ui/LongWork.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { FolderOpen, ImagePlus, Upload } from '@lucide/svelte';
  import { Progressbar } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  let sets = $state<Schemas['Set'][]>([]);
  let imports = $state<Schemas['Import'][]>([]);
  let shown = $state<number | null>(null);
  let files = $state<Schemas['ImportFile'][]>([]);
  let uploader = $state<Uploader | null>(null);
  let over = $state(false);
  let again = $state(false);
  type FactsReport = { taken: number; facts: string[]; skipped_count: number; skipped: { line: number; reason: string }[] };
  let facts = $state.raw<FactsReport | null>(null);
  let factsBegan = $state<number | null>(null);

  async function takeFacts(file: File) {
    error = '';
    facts = null;
    try {
      const taken = await ask(
        api.POST('/projects/{project}/items/facts', {
          ...parts(project.id),
          body: await file.text(),
          bodySerializer: (text) => text,
          headers: { 'Content-Type': 'text/csv' }
        })
      );
      // a long table is read behind; its report comes when that has ended
      if (taken.chore === null) facts = taken;
      else factsBegan = taken.chore;
    } catch (e) {
      error = (e as Error).message;
    }
  }
  let what = $state<'pictures' | 'texts' | 'labels'>('pictures');
  /** how documents among the files are taken */
  let bundles = $state(false);
  let resolution = $state<number | null>(null);
  /** the pictures of a folder are slices, so many mm apart */
  let slices = $state(false);
  /** the scans of a folder are frames of one sequence */
  let frames = $state(false);
  let spacing = $state.raw([1, 1, 1]);
  $effect(() => {
    if (slices) bundles = false;
  });
  $effect(() => {
    if (bundles) slices = false;
  });
  let texts = $state({ format: 'csv', as: 'labels', empty: 'unlabelled' });
  type Seen = { columns: string[]; rows: Record<string, string>[]; guess: Schemas['TextColumns'] };
  /** a table that has arrived and is looked at before it is taken */
  let asked = $state.raw<{ seen: Seen; say: (columns: Schemas['TextColumns'] | null) => void } | null>(null);
  async function columnsOf(id: number): Promise<Schemas['TextColumns'] | null> {
    const seen = await ask(
      api.GET('/projects/{project}/imports/{import}/columns', { params: { path: { project: project.id, import: id } } })
    );
    const columns = await new Promise<Schemas['TextColumns'] | null>((say) => (asked = { seen, say }));
    asked = null;
    return columns;
  }
  let labels = $state({ format: 'coco', as: 'labels', empty: 'unlabelled' });
  let error = $state('');
  let timer: ReturnType<typeof setInterval> | undefined;

  const goes = (i: Schemas['Import']) => i.state === 'receiving' || i.state === 'working';

  async function load() {
    const [s, i] = await Promise.all([
      ask(api.GET('/projects/{project}/sets', parts(project.id))),
      ask(api.GET('/projects/{project}/imports', parts(project.id)))
    ]);
    sets = s.data;
    imports = i.data;
    if (shown !== null)
      files = (
        await ask(api.GET('/projects/{project}/imports/{import}/files', { params: { path: { project: project.id, import: shown } } }))
      ).data;
  }
  onMount(() => {
    load().catch((e) => (error = e.message));
    timer = setInterval(() => {
      if (uploader?.busy || imports.some((i) => goes(i) && i.id === shown)) void load().catch(() => {});
    }, 1200);
    return () => clearInterval(timer);
  });

  async function take(chosen: { path: string; file: File }[]) {
    if (chosen.length === 0) return;
    error = '';
    if (what === 'pictures' && slices && !spacing.every((mm) => mm > 0)) {
      error = 'say how many mm lie between voxels, each more than 0';
      return;
    }
    uploader = new Uploader(
      project.id,
      {
        again,
        ...(what === 'pictures' && (bundles || slices || frames || resolution !== null)
          ? {
              files: {
                ...(bundles && { bundles }),
                ...(frames && { frames }),
                ...(slices && { slices: [...spacing] }),
                ...(resolution !== null && { resolution })
              }
            }
          : {}),
        ...(what === 'labels' ? { labels: $state.snapshot(labels) } : {}),
        ...(what === 'texts' ? { texts: $state.snapshot(texts) } : {})
      },
      what === 'texts' && texts.format !== 'conll' ? columnsOf : null
    );
    uploader.add(chosen);
    try {
      const done = await uploader.run();
      shown = done?.id ?? uploader.importId;
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }

  /** A table that has arrived and whose columns nobody has settled: the page was left before. */
  const waits = (i: Schemas['Import']) => i.state === 'receiving' && i.options.texts === true && (i.counts['received'] ?? 0) > 0;
  async function goOn(id: number) {
    error = '';
    try {
      const path = { params: { path: { project: project.id, import: id } } };
      const columns = await columnsOf(id);
      if (columns === null) await ask(api.DELETE('/projects/{project}/imports/{import}', path));
      else await ask(api.POST('/projects/{project}/imports/{import}/finish', { ...path, body: { columns } }));
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }

  const picked = (list: FileList | null) => [...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
  const current = $derived(imports.find((i) => i.id === (uploader?.importId ?? shown)) ?? null);
  const mb = (n: number) => `${(n / 1e6).toFixed(1)} MB`;
  const accept = $derived(
    what === 'pictures'
      ? '.jpg,.jpeg,.png,.webp,.bmp,.tif,.tiff,.gif,.pdf,.mp4,.m4v,.mov,.webm,.mkv,.avi,.nii,.gz,.dcm,.dicom,.ima,.txt,.zip'
      : what === 'texts'
        ? '.csv,.tsv,.jsonl,.ndjson,.conll,.bio,.iob,.txt'
        : '.json,.xml,.txt,.yaml,.yml,.names,.zip'
  );
</script>

<Shell title="Bring in" {project}>
  <ErrorNote message={error} />
  <div class="what" role="radiogroup" aria-label="what to bring in">
    <label><input type="radio" bind:group={what} value="pictures" /> pictures, clips, documents and text files</label>
    <label><input type="radio" bind:group={what} value="texts" /> many texts in a file</label>
    <label><input type="radio" bind:group={what} value="labels" /> labels for pictures that are here</label>
  </div>
  {#if what === 'texts'}
    <div class="what card">
      <label
        >read as <select class="field narrow" bind:value={texts.format}
          ><option value="csv">CSV, a row each</option><option value="jsonl">JSONL, a line each</option><option value="conll"
            >CoNLL, with labels</option
          ></select
        ></label
      >
      {#if texts.format !== 'csv'}
        <label
          >labels in it come in as <select class="field narrow" bind:value={texts.as}
            ><option value="labels">labels</option><option value="suggestions">suggestions</option></select
          ></label
        >
      {/if}
    </div>
  {/if}
  {#if what === 'pictures'}
    <div class="what card" role="group" aria-label="what belongs together">
      <label
        ><input type="checkbox" bind:checked={bundles} /><span
          >the pictures of a folder are the pages of a document
          <span class="soft">by their names, or as a pages.csv beside them says: document, file</span></span
        ></label
      >
      <label
        ><input type="checkbox" bind:checked={slices} /><span
          >the pictures of a folder are the slices of a volume
          <span class="soft">in the order of their names; DICOM series are told by themselves</span></span
        ></label
      >
      {#if slices}
        <div class="dots" role="group" aria-label="spacing">
          <span>mm across, down, from slice to slice</span>
          {#each ['across', 'down', 'from slice to slice'] as way, i (way)}
            <input
              class="field num"
              type="number"
              min="0.0001"
              step="any"
              aria-label="mm {way}"
              value={spacing[i]}
              oninput={(e) => (spacing = spacing.map((n, k) => (k === i ? e.currentTarget.valueAsNumber : n)))}
            />
          {/each}
        </div>
      {/if}
      <label
        ><input type="checkbox" bind:checked={frames} /><span
          >the point clouds of a folder are the frames of a sequence
          <span class="soft">by their names, with pictures of cameras and where these are (cameras.json, calib.txt)</span></span
        ></label
      >
      <label class="dots"
        ><span>PDF pages at</span><input
          class="field num"
          type="number"
          min="36"
          max="600"
          placeholder="150"
          aria-label="px an inch"
          bind:value={resolution}
        /><span>px an inch</span></label
      >
    </div>
  {/if}
  {#if what === 'labels'}
    <div class="what card"><LabelOptions bind:options={labels} /></div>
  {/if}
  <section
    class="drop"
    class:over
    aria-label="drop files here"
    ondragover={(e) => {
      e.preventDefault();
      over = true;
    }}
    ondragleave={() => (over = false)}
    ondrop={async (e) => {
      e.preventDefault();
      over = false;
      if (e.dataTransfer) await take(await dropped(e.dataTransfer));
    }}
  >
    <Upload size={26} strokeWidth={1.75} />
    <p>
      {what === 'pictures'
        ? 'Drop pictures, clips, scans (NIfTI, DICOM), point clouds, PDFs, text files, a folder or a zip here. Sub-folders become sets.'
        : what === 'texts'
          ? 'Drop the table or the file with tokens here. It becomes a set.'
          : 'Drop the label files, their folder or a zip here.'}
    </p>
    <div class="row">
      <label class="act"
        ><ImagePlus size={15} strokeWidth={1.75} />choose files<input
          class="unseen"
          type="file"
          multiple
          {accept}
          onchange={(e) => take(picked(e.currentTarget.files))}
        /></label
      >
      <label class="act"
        ><FolderOpen size={15} strokeWidth={1.75} />choose a folder<input
          class="unseen"
          type="file"
          webkitdirectory
          onchange={(e) => take(picked(e.currentTarget.files))}
        /></label
      >
      {#if what !== 'labels'}<label class="again"
          ><input type="checkbox" bind:checked={again} /> take {what === 'texts' ? 'texts' : 'files'} already here a second time</label
        >{/if}
    </div>
  </section>

  {#if uploader}
    <section class="card mb-4" aria-label="sending">
      <div class="line">
        <strong>{uploader.busy ? 'sending' : 'sent'}</strong><span class="num">{mb(uploader.sent)} of {mb(uploader.bytes)}</span><span
          class="soft">{uploader.paused}</span
        >
      </div>
      <Progressbar progress={uploader.bytes ? Math.floor((100 * uploader.sent) / uploader.bytes) : 100} size="h-2" />
      {#if uploader.busy || uploader.jobs.some((j) => j.state === 'failed')}
        <ul class="jobs">
          {#each uploader.jobs.filter((j) => j.state === 'sending' || j.state === 'failed').slice(0, 8) as job (job)}
            <li>
              <span>{job.path}</span><span class="num"
                >{job.state === 'failed' ? job.reason : `${Math.floor((100 * job.sent) / Math.max(1, job.file.size))} %`}</span
              >
            </li>
          {/each}
        </ul>
      {/if}
    </section>
  {/if}

  {#if current && waits(current) && !asked && !uploader}<p class="card mb-4">
      This table has arrived; nobody has said yet what its columns are.
      <button class="act" onclick={() => void goOn(current.id)}>Look at its columns</button>
    </p>{/if}
  {#if asked}<TextColumns seen={asked.seen} taken={asked.say} left={() => asked?.say(null)} />{/if}
  {#if current}
    <ImportReport
      of={current}
      {files}
      changed={load}
      made={async (id) => {
        uploader = null;
        shown = id;
      }}
    />
  {/if}

  <div class="two">
    <section>
      <h2 class="mb-1">Sets</h2>
      {#if sets.length === 0}<p class="soft">No pictures yet.</p>{:else}
        <table class="dense">
          <thead><tr><th>set</th><th>items</th><th>not handed out</th></tr></thead>
          <tbody
            >{#each sets as set (set.path)}<tr
                ><td>{set.path || '(top)'}</td><td class="num">{set.items}</td><td class="num">{set.new}</td></tr
              >{/each}</tbody
          >
        </table>
        {#if sets.some((s) => s.new > 0)}<a class="act mt-3" href="/p/{project.id}/hand-out">Hand them out</a>{/if}
      {/if}
    </section>
    <section aria-label="facts about the pictures">
      <h2 class="mb-1">Facts about the pictures</h2>
      <p class="soft mb-2">
        A CSV table beside them: a column <code>file</code>, and one for each fact, such as weather or height. Items are filtered by them.
      </p>
      <label class="act"
        ><Upload size={15} strokeWidth={1.75} />Choose a table<input
          class="sr-only"
          type="file"
          accept=".csv,text/csv"
          onchange={(e) => {
            const file = e.currentTarget.files?.[0];
            e.currentTarget.value = '';
            if (file) void takeFacts(file);
          }}
        /></label
      >
      <LongWork
        kind="facts"
        began={factsBegan}
        ended={(chore) => {
          if (chore.state === 'done') facts = chore.report as FactsReport | null;
        }}
      />
      {#if facts}
        <p class="mt-2" role="status" aria-label="facts taken">
          <span class="num">{facts.taken}</span>
          {facts.taken === 1 ? 'picture' : 'pictures'}: {facts.facts.join(', ')}{facts.skipped_count > 0
            ? `; ${facts.skipped_count} lines fit no picture`
            : ''}
        </p>
        {#each facts.skipped.slice(0, 8) as s, i (i)}<p class="soft">line {s.line}: {s.reason}</p>{/each}
      {/if}
    </section>
    <section>
      <h2 class="mb-1">Earlier imports</h2>
      {#if imports.length === 0}<p class="soft">None through this page.</p>{:else}
        <table class="dense">
          <tbody>
            {#each imports.slice(0, 12) as i (i.id)}
              <tr>
                <td
                  ><button
                    class="act link"
                    onclick={() => {
                      uploader = null;
                      shown = i.id;
                      void load();
                    }}>Import {i.id}</button
                  ></td
                >
                <td>{new Date(i.at).toLocaleString('en-GB', { dateStyle: 'short', timeStyle: 'short' })}</td>
                <td>{i.by}</td>
                <td
                  >{[
                    ...(i.state === 'done' ? [] : [states[i.state].split(';')[0]]),
                    ...Object.entries(i.counts).map(([s, n]) => `${n} ${words[s] ?? s}`)
                  ].join(', ')}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
  </div>
</Shell>

<style>
  .dots {
    flex: none;
    white-space: nowrap;
  }
  .dots .field {
    width: 76px;
  }
  .what {
    display: flex;
    gap: 20px;
    margin-bottom: 10px;
    align-items: center;
  }
  .what label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .narrow {
    width: auto;
  }
  .drop {
    border: 2px dashed var(--edge);
    border-radius: 4px;
    padding: 22px;
    display: grid;
    justify-items: center;
    gap: 8px;
    margin-bottom: 16px;
  }
  .drop.over {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 8%, transparent);
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .act:focus-within {
    outline: 2px solid var(--accent);
  }
  .again {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .line {
    display: flex;
    gap: 14px;
    margin-bottom: 6px;
  }
  .jobs li {
    display: flex;
    justify-content: space-between;
    padding: 2px 0;
    font-size: 13px;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 28px;
  }
</style>
