<script lang="ts">
  import { Button, Input, Label } from 'flowbite-svelte';
  import ErrorNote from './ErrorNote.svelte';

  let { word, send }: { word: string; send: (body: { name: string; email: string; password: string }) => Promise<void> } = $props();
  let body = $state({ name: '', email: '', password: '' });
  let error = $state('');
  let busy = $state(false);
</script>

<form
  onsubmit={async (e) => {
    e.preventDefault();
    busy = true;
    error = '';
    try {
      await send({ ...body });
    } catch (failure) {
      error = (failure as Error).message;
    }
    busy = false;
  }}
>
  <Label for="name" class="mb-1">name</Label>
  <Input id="name" autocomplete="name" bind:value={body.name} required class="mb-3" />
  <Label for="email" class="mb-1">e-mail</Label>
  <Input id="email" type="email" autocomplete="username" bind:value={body.email} required class="mb-3" />
  <Label for="password" class="mb-1">password, at least 10 characters</Label>
  <Input id="password" type="password" autocomplete="new-password" minlength={10} bind:value={body.password} required class="mb-4" />
  <ErrorNote message={error} />
  <Button type="submit" disabled={busy} class="w-full">{word}</Button>
</form>
