<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ask } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Button, Input, Label, Textarea } from 'flowbite-svelte';

  let name = $state('');
  let description = $state('');
  let group = $state('');
  let error = $state('');
</script>

<Shell title="New project">
  <form
    class="card max-w-xl"
    onsubmit={async (e) => {
      e.preventDefault();
      error = '';
      try {
        const project = await ask(api.POST('/projects', { body: { name, description, group } }));
        await goto(`/p/${project.id}/describe`);
      } catch (failure) {
        error = (failure as Error).message;
      }
    }}
  >
    <Label for="name" class="mb-1">name</Label>
    <Input id="name" bind:value={name} required maxlength={120} class="mb-3" />
    <Label for="group" class="mb-1">group it belongs to (department, customer)</Label>
    <Input id="group" bind:value={group} maxlength={120} class="mb-3" />
    <Label for="description" class="mb-1">what it is for</Label>
    <Textarea id="description" bind:value={description} rows={3} class="mb-3 w-full" />
    <ErrorNote message={error} />
    <Button type="submit">Create, then describe the classes</Button>
  </form>
</Shell>
