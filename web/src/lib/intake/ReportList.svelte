<script lang="ts">
  /** One list of an import's report, a page at a time: the import itself carries only the first lines. */
  import { api, ask } from '$lib/api/client';
  import { itemsNamed } from '$lib/ui/named';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';

  type Line = { [key: string]: unknown };
  let { importId, list, total, first }: { importId: number; list: 'skipped' | 'findings'; total: number; first: Line[] } = $props();

  const project = useProject();
  let more = $state.raw<Line[]>([]);
  let listed = $state<number | null>(null);
  let error = $state('');
  const lines = $derived([...first, ...more]);
  const word = { skipped: ['did not come in', 'did not come in'], findings: ['finding of the check', 'findings of the check'] };

  async function go() {
    error = '';
    try {
      const page = await ask(
        api.GET('/projects/{project}/imports/{import}/report', {
          params: { path: { project: project.id, import: importId }, query: { list, offset: lines.length } }
        })
      );
      more = [...more, ...page.data];
      listed = page.listed;
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

{#if total > 0}
  <h3 class="mt-2 font-semibold">{total} {word[list][total === 1 ? 0 : 1]}</h3>
  <table class="dense">
    <tbody
      >{#each lines as line, i (i)}<tr
          >{#each list === 'skipped' ? ['file', 'place', 'reason'] : ['item', 'message'] as key (key)}<td
              >{#if key === 'item'}<a class="plain" href={itemsNamed(project.id, String(line[key]))}>{line[key]}</a>{:else}{line[key] ??
                  ''}{/if}</td
            >{/each}</tr
        >{/each}</tbody
    >
  </table>
  <ErrorNote message={error} />
  {#if lines.length < (listed ?? total)}<button class="act link" onclick={go}>more of them</button>
  {:else if listed !== null && listed < total}<p class="soft">The first {listed} are listed; {total - listed} more were counted.</p>{/if}
{/if}
