<script lang="ts">
  import { page } from '$app/state';
  import { ProjectState } from '$lib/state/project.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import { setContext } from 'svelte';

  let { children } = $props();
  const current = $derived(new ProjectState(Number(page.params.id)));
  setContext('project', () => current);
  $effect(() => {
    void current.load();
  });
</script>

{#if current.error !== ''}
  <main class="away"><ErrorNote message={current.error} /><a class="act" href="/">My work</a></main>
{:else if current.project}
  {#key current.id}{@render children()}{/key}
{/if}

<style>
  .away {
    max-width: 480px;
    margin: 15vh auto;
  }
</style>
