<script lang="ts">
  import { goto } from '$app/navigation';
  import { api, ask } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import Door from '$lib/ui/Door.svelte';
  import NewPersonForm from '$lib/ui/NewPersonForm.svelte';

  $effect(() => {
    if (session.loaded && !session.firstRun) void goto('/');
  });
</script>

<Door title="Welcome">
  <p class="mb-4">This installation is empty. Whoever signs up here owns it: they create projects and let others in.</p>
  <NewPersonForm
    word="Begin"
    send={async (body) => {
      session.welcome(await ask(api.POST('/setup', { body })));
      await goto('/');
    }}
  />
</Door>
