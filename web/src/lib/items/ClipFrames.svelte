<script lang="ts">
  /** Frames of a clip become pictures of its project, or of another one. */
  import { api, ask, type Schemas } from '$lib/api/client';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LongWork from '$lib/ui/LongWork.svelte';

  let { item, done }: { item: Schemas['Item']; done: () => void } = $props();
  const project = useProject();
  let how = $state<'every' | 'different' | 'list' | 'stretch'>('every');
  let words = $state('24');
  let into = $state(0);
  let others = $state.raw<{ id: number; name: string }[]>([]);
  let error = $state('');
  let said = $state('');
  let began = $state<number | null>(null);
  const hints = { every: '24', different: '20', list: '1, 30, 75', stretch: '40-80' };

  /** People count frames from 1, data from 0. */
  const fromOne = (n: string): number => Number(n.trim()) - 1;
  function choice(): string {
    if (how === 'every' || how === 'different') return `${how}:${words.trim()}`;
    if (how === 'list') return `list:${words.split(',').map(fromOne).join(',')}`;
    return `stretch:${words.split('-').map(fromOne).join('-')}`;
  }
  async function load() {
    const all = await ask(api.GET('/projects', {}));
    others = all.data.filter((p) => p.id !== project.id).map((p) => ({ id: p.id, name: p.name }));
  }
  load().catch(() => (others = []));
  async function take(e: SubmitEvent) {
    e.preventDefault();
    error = said = '';
    try {
      const answer = await ask(
        api.POST('/projects/{project}/items/{item}/frames', {
          params: { path: { project: project.id, item: item.id } },
          body: { frames: choice(), ...(into > 0 && { project: into }) }
        })
      );
      began = answer.chore;
      said = `${answer.frames} ${answer.frames === 1 ? 'frame is' : 'frames are'} taken`;
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

<form class="frames" onsubmit={take} aria-label="frames become pictures">
  <span>Its frames become pictures:</span>
  <select class="field" aria-label="which frames" bind:value={how} onchange={() => (words = hints[how])}>
    <option value="every">every … th</option><option value="different">the most different …</option><option value="list">these</option
    ><option value="stretch">from … to …</option>
  </select>
  <input class="field num" aria-label="frames" bind:value={words} placeholder={hints[how]} />
  {#if others.length > 0}<select class="field" aria-label="into which project" bind:value={into}
      ><option value={0}>into this project</option>{#each others as p (p.id)}<option value={p.id}>into {p.name}</option>{/each}</select
    >{/if}
  <button class="act">Take</button>
  <span class="soft" role="status">{said}</span>
</form>
<ErrorNote message={error} />
<LongWork
  kind="frames"
  {began}
  ended={(chore) => {
    const report = chore.report as { taken?: number; known?: number } | null;
    said = report ? `${report.taken ?? 0} taken, ${report.known ?? 0} were there already` : '';
    done();
  }}
/>

<style>
  .frames {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
    margin-top: 6px;
  }
  .field {
    width: auto;
  }
  input.field {
    width: 120px;
  }
</style>
