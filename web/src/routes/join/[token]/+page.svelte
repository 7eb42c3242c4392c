<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, ask } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import Door from '$lib/ui/Door.svelte';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import NewPersonForm from '$lib/ui/NewPersonForm.svelte';

  const path = $derived({ token: page.params.token ?? '' });
  let error = $state('');

  async function join(body: { name?: string; email?: string; password?: string }) {
    session.welcome(await ask(api.POST('/invitations/{token}', { params: { path }, body })));
    await goto('/');
  }
</script>

<Door title="Join a project">
  {#await ask(api.GET('/invitations/{token}', { params: { path } }))}
    <p class="soft">looking up the invitation…</p>
  {:then invitation}
    <p class="mb-4">You are invited to <strong>{invitation.project}</strong> as {invitation.role}.</p>
    {#if session.user}
      <ErrorNote message={error} />
      <button
        class="act main"
        onclick={async () => {
          try {
            await join({});
          } catch (e) {
            error = (e as Error).message;
          }
        }}>Join as {session.user.name}</button
      >
    {:else}
      <NewPersonForm word="Join" send={join} />
      <p class="soft mt-3">
        Have an account here? <a class="plain" href="/sign-in?to={encodeURIComponent(page.url.pathname)}">Sign in first</a>.
      </p>
    {/if}
  {:catch e}
    <ErrorNote message={(e as Error).message} />
  {/await}
</Door>
