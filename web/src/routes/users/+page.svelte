<script lang="ts">
  import { api, ask, type Schemas } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LinkNote from '$lib/ui/LinkNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Toggle } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  let users = $state<Schemas['Account'][]>([]);
  let error = $state('');
  const load = async () => (users = (await ask(api.GET('/users'))).data);
  onMount(() => load().catch((e) => (error = e.message)));

  async function change(user: number, body: { can_create?: boolean; is_owner?: boolean; disabled?: boolean }) {
    error = '';
    try {
      await ask(api.PATCH('/users/{user}', { params: { path: { user } }, body }));
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }

  let fresh = $state<{ name: string; link: string } | null>(null);
  async function newPassword(user: Schemas['Account']) {
    error = '';
    try {
      const made = await ask(api.POST('/users/{user}/password-link', { params: { path: { user: user.id } } }));
      fresh = { name: user.name, link: location.origin + made.link };
    } catch (e) {
      error = (e as Error).message;
    }
  }
</script>

<Shell title="People of this installation">
  <ErrorNote message={error} />
  {#if fresh}
    <div class="card mb-4">
      <LinkNote link={fresh.link} label="link for a new password"
        >Send {fresh.name} this link. It works once, for a day, and is not shown again:</LinkNote
      >
    </div>
  {/if}
  <table class="dense">
    <thead><tr><th>name</th><th>e-mail</th><th>may create projects</th><th>owner</th><th>may sign in</th><th></th></tr></thead>
    <tbody>
      {#each users as user (user.id)}
        <tr>
          <td>{user.name}</td>
          <td>{user.email}</td>
          <td
            ><Toggle
              size="small"
              checked={user.can_create}
              aria-label="{user.name} may create projects"
              onchange={(e) => change(user.id, { can_create: (e.currentTarget as HTMLInputElement).checked })}
            /></td
          >
          <td
            ><Toggle
              size="small"
              checked={user.is_owner}
              aria-label="{user.name} owns the installation"
              onchange={(e) => change(user.id, { is_owner: (e.currentTarget as HTMLInputElement).checked })}
            /></td
          >
          <td
            ><Toggle
              size="small"
              checked={!user.disabled}
              aria-label="{user.name} may sign in"
              onchange={(e) => change(user.id, { disabled: !(e.currentTarget as HTMLInputElement).checked })}
            /></td
          >
          <td><button class="act link" onclick={() => newPassword(user)}>new password</button></td>
        </tr>
      {/each}
    </tbody>
  </table>
</Shell>
