<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import Door from '$lib/ui/Door.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import { Button, Input, Label } from 'flowbite-svelte';

  const path = $derived({ token: page.params.token ?? '' });
  let password = $state('');
  let error = $state('');
  let busy = $state(false);

  async function set(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    error = '';
    try {
      session.welcome(await ask(api.POST('/passwords/{token}', { params: { path }, body: { password } })));
      await goto('/');
    } catch (failure) {
      error = (failure as Error).message;
    }
    busy = false;
  }
</script>

<Door title="A new password">
  {#await ask(api.GET('/passwords/{token}', { params: { path } }))}
    <p class="soft">looking up the link…</p>
  {:then person}
    <p class="mb-4">For the account of <strong>{person.name}</strong>. Everywhere else it is signed out.</p>
    <form onsubmit={set}>
      <Label for="password" class="mb-1">new password, at least 10 characters</Label>
      <Input id="password" type="password" autocomplete="new-password" minlength={10} bind:value={password} required class="mb-4" />
      <ErrorNote message={error} />
      <Button type="submit" disabled={busy} class="w-full">Set it and sign in</Button>
    </form>
  {:catch e}
    <ErrorNote message={(e as Error).message} />
  {/await}
</Door>
