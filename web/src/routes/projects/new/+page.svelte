<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ask } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Button, Input, Label, Textarea } from 'flowbite-svelte';
  import type { Schemas } from '$lib/api/client';
  import { onMount } from 'svelte';

  let name = $state('');
  let description = $state('');
  let group = $state('');
  let error = $state('');
  let found = $state.raw<Schemas['Templates']>({ templates: [], projects: [] });
  let start = $state('');
  const starts = $derived([
    { key: '', name: 'Nothing', description: 'an empty codebook' },
    ...found.templates.map((t) => ({ key: `t ${t.key}`, name: t.name, description: t.description })),
    ...found.projects.map((p) => ({
      key: `p ${p.id}`,
      name: `As in ${p.name}`,
      description: p.document.classes.map((c) => c.name).join(', ') || 'no classes'
    }))
  ]);
  const codebook = () => {
    const [kind, key] = start.split(' ');
    return kind === 't' ? found.templates.find((t) => t.key === key)?.document : found.projects.find((p) => String(p.id) === key)?.document;
  };
  onMount(async () => {
    try {
      found = await ask(api.GET('/templates'));
    } catch (e) {
      error = (e as Error).message;
    }
  });
</script>

<Shell title="New project">
  <form
    class="card"
    onsubmit={async (e) => {
      e.preventDefault();
      error = '';
      try {
        const chosen = codebook();
        const project = await ask(api.POST('/projects', { body: { name, description, group, ...(chosen && { codebook: chosen }) } }));
        await goto(`/p/${project.id}/describe`);
      } catch (failure) {
        error = (failure as Error).message;
      }
    }}
  >
    <div class="called">
      <div><Label for="name" class="mb-1">name</Label><Input id="name" bind:value={name} required maxlength={120} /></div>
      <div>
        <Label for="group" class="mb-1">group it belongs to (department, customer)</Label>
        <Input id="group" bind:value={group} maxlength={120} />
      </div>
    </div>
    <Label for="description" class="mb-1">what it is for</Label>
    <Textarea id="description" bind:value={description} rows={2} class="mb-3 w-full" />
    <fieldset class="mb-3">
      <legend>begin with</legend>
      <div class="starts">
        {#each starts as s (s.key)}
          <label class:chosen={start === s.key}
            ><input type="radio" name="start" value={s.key} bind:group={start} />
            <span><strong>{s.name}</strong><span class="soft">{s.description}</span></span></label
          >
        {/each}
      </div>
    </fieldset>
    <ErrorNote message={error} />
    <Button type="submit">Create, then describe the classes</Button>
  </form>
</Shell>

<style>
  .called {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 12px;
    margin-bottom: 12px;
  }
  .starts {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
    gap: 6px;
    margin-top: 4px;
  }
  .starts label {
    display: flex;
    gap: 9px;
    align-items: baseline;
    border: 1px solid var(--line);
    border-radius: 4px;
    padding: 7px 10px;
    cursor: pointer;
  }
  .starts .chosen {
    border-color: var(--primary);
  }
  .starts .soft {
    display: block;
    font-size: 12.5px;
  }
</style>
