<script lang="ts">
  import { api, ask } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import KeyBindings from '$lib/keys/KeyBindings.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Button, Input, Label, Select } from 'flowbite-svelte';

  let current = $state('');
  let password = $state('');
  let error = $state('');
  let done = $state(false);
</script>

<Shell title="Your account">
  <div class="parts">
    <div>
      <section class="card mb-4">
        <h2 class="mb-2">{session.user?.name}</h2>
        <p class="soft mb-3">{session.user?.email}</p>
        <Label for="theme" class="mb-1">theme</Label>
        <Select
          id="theme"
          items={[
            { value: 'auto', name: 'paper, and dusk on the bench' },
            { value: 'paper', name: 'paper everywhere' },
            { value: 'dusk', name: 'dusk everywhere' }
          ]}
          value={session.theme}
          onchange={(e) => session.setTheme((e.currentTarget as HTMLSelectElement).value as 'paper' | 'dusk' | 'auto')}
        />
      </section>
      <form
        class="card"
        onsubmit={async (e) => {
          e.preventDefault();
          [error, done] = ['', false];
          try {
            await ask(api.PUT('/session/password', { body: { current, password } }));
            [current, password, done] = ['', '', true];
          } catch (failure) {
            error = (failure as Error).message;
          }
        }}
      >
        <h2 class="mb-2">Change password</h2>
        <Label for="current" class="mb-1">present password</Label>
        <Input id="current" type="password" autocomplete="current-password" bind:value={current} required class="mb-3" />
        <Label for="password" class="mb-1">new password, at least 10 characters</Label>
        <Input id="password" type="password" autocomplete="new-password" minlength={10} bind:value={password} required class="mb-3" />
        <ErrorNote message={error} />
        {#if done}<p role="status" class="mb-2">changed</p>{/if}
        <Button type="submit">Change</Button>
      </form>
    </div>
    <KeyBindings />
  </div>
</Shell>

<style>
  .parts {
    display: grid;
    grid-template-columns: minmax(280px, 400px) minmax(0, 640px);
    gap: 16px;
    align-items: start;
  }
  @media (max-width: 1150px) {
    .parts {
      grid-template-columns: 1fr;
    }
  }
</style>
