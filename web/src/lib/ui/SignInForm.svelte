<script lang="ts">
  import { session } from '$lib/state/session.svelte';
  import { Button, Input, Label } from 'flowbite-svelte';
  import ErrorNote from './ErrorNote.svelte';

  let { done = () => {} }: { done?: () => void } = $props();
  let email = $state('');
  let password = $state('');
  let error = $state('');
  let busy = $state(false);

  async function signIn(body: { email?: string; password?: string; demo?: number }) {
    busy = true;
    error = '';
    try {
      await session.signIn(body);
      done();
    } catch (e) {
      error = (e as Error).message;
    }
    busy = false;
  }
</script>

<form
  onsubmit={(e) => {
    e.preventDefault();
    void signIn({ email, password });
  }}
>
  <Label for="email" class="mb-1">e-mail</Label>
  <Input id="email" type="email" autocomplete="username" bind:value={email} required class="mb-3" />
  <Label for="password" class="mb-1">password</Label>
  <Input id="password" type="password" autocomplete="current-password" bind:value={password} required class="mb-4" />
  <ErrorNote message={error} />
  <Button type="submit" disabled={busy} class="w-full">Sign in</Button>
</form>
{#if session.demoPeople.length > 0}
  <p class="soft mt-5 mb-2">This is a demo. Look around as</p>
  <ul class="people">
    {#each session.demoPeople as person (person.id)}
      <li>
        <button class="act" disabled={busy} onclick={() => signIn({ demo: person.id })}
          ><strong>{person.name}</strong> <span class="soft">{person.what}</span></button
        >
      </li>
    {/each}
  </ul>
{/if}

<style>
  .people {
    display: grid;
    gap: 6px;
  }
  .people button {
    width: 100%;
  }
</style>
