<script lang="ts">
  import { api, ask, type Schemas } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Toggle } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  let users = $state<Schemas['Account'][]>([]);
  let error = $state('');
  const load = async () => (users = (await ask(api.GET('/users'))).data);
  onMount(() => load().catch((e) => (error = e.message)));

  async function change(user: number, body: { can_create?: boolean; is_owner?: boolean }) {
    error = '';
    try {
      await ask(api.PATCH('/users/{user}', { params: { path: { user } }, body }));
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }
</script>

<Shell title="People of this installation">
  <ErrorNote message={error} />
  <table class="dense">
    <thead><tr><th>name</th><th>e-mail</th><th>may create projects</th><th>owner</th></tr></thead>
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
        </tr>
      {/each}
    </tbody>
  </table>
</Shell>
