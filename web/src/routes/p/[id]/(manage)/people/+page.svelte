<script lang="ts">
  import { api, ask, type Schemas } from '$lib/api/client';
  import { parts } from '$lib/state/project.svelte';
  import { useProject } from '$lib/state/context';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import LinkNote from '$lib/ui/LinkNote.svelte';
  import Shell from '$lib/ui/Shell.svelte';
  import { Button, Input, Label, Select, Textarea, Toggle } from 'flowbite-svelte';
  import { onMount } from 'svelte';

  const project = useProject();
  const roles = ['manager', 'reviewer', 'labeller', 'guest'].map((role) => ({ value: role, name: role }));
  let members = $state<Schemas['Member'][]>([]);
  let invitations = $state<Schemas['Invitation'][]>([]);
  let role = $state<Schemas['Role']>('labeller');
  let note = $state('');
  let link = $state('');
  let candidates = $state<Schemas['Person'][]>([]);
  let chosen = $state<number | null>(null);
  /** who is about to leave, and who takes over what they hold */
  let leaving = $state<Schemas['Member'] | null>(null);
  let heir = $state<number | null>(null);
  let fresh = $state<{ name: string; link: string } | null>(null);
  let said = $state('');
  let error = $state('');
  let about = $state({
    name: project.project?.name ?? '',
    description: project.project?.description ?? '',
    group: project.project?.group ?? '',
    own_review: project.project?.own_review ?? false,
    slip_guard: project.project?.slip_guard ?? true,
    require_seen: project.project?.require_seen ?? false,
    seen_zoom: project.project?.seen_zoom ?? 0.5
  });
  let saved = $state(false);

  async function load() {
    const [people, others] = await Promise.all([
      ask(api.GET('/projects/{project}/people', parts(project.id))),
      ask(api.GET('/projects/{project}/people/candidates', parts(project.id)))
    ]);
    members = people.data;
    invitations = people.invitations;
    candidates = others.data;
    if (chosen !== null && !candidates.some((c) => c.id === chosen)) chosen = null;
  }
  onMount(() => load().catch((e) => (error = e.message)));

  const of = (user: number) => ({ params: { path: { project: project.id, user } } });

  async function remove(member: Schemas['Member']) {
    const gone = await ask(
      api.DELETE('/projects/{project}/people/{user}', {
        params: { ...of(member.id).params, ...(heir !== null && { query: { to: heir } }) }
      })
    );
    leaving = null;
    const to = heir === null ? 'went back to the queue' : `went to ${members.find((m) => m.id === heir)?.name}`;
    said =
      `${member.name} has left. ` +
      (gone.turns === 0 ? 'Nothing was waiting for them.' : `${gone.turns} ${gone.turns === 1 ? 'item' : 'items'} ${to}.`) +
      (gone.without.length > 0
        ? ` ${gone.without.length} of the assignments have work left and nobody to do it: hand them out again.`
        : '');
  }

  async function attempt(work: () => Promise<unknown>) {
    error = said = '';
    try {
      await work();
    } catch (e) {
      error = (e as Error).message;
    }
    await load();
  }
</script>

<Shell title="People and settings" {project}>
  <ErrorNote message={error} />
  {#if said !== ''}<p class="card mb-4" role="status">{said}</p>{/if}
  <div class="two">
    <section>
      <h2 class="mb-1">People</h2>
      <table class="dense mb-6">
        <thead><tr><th>name</th><th>e-mail</th><th>role</th><th></th></tr></thead>
        <tbody>
          {#each members as member (member.id)}
            <tr>
              <td
                >{member.name}{#if member.disabled}<br /><span class="soft">account disabled</span>{/if}</td
              >
              <td>{member.email}</td>
              <td>
                <select
                  class="field"
                  aria-label="role of {member.name}"
                  value={member.role}
                  onchange={(e) =>
                    attempt(() =>
                      ask(
                        api.PATCH('/projects/{project}/people/{user}', {
                          params: { path: { project: project.id, user: member.id } },
                          body: { role: e.currentTarget.value as Schemas['Role'] }
                        })
                      )
                    )}
                >
                  {#each roles as r (r.value)}<option value={r.value}>{r.name}</option>{/each}
                </select>
              </td>
              <td
                ><button
                  class="act link"
                  title="a link by which {member.name} sets a new password"
                  onclick={() =>
                    attempt(async () => {
                      fresh = {
                        name: member.name,
                        link: location.origin + (await ask(api.POST('/projects/{project}/people/{user}/password-link', of(member.id)))).link
                      };
                    })}>new password</button
                >
                <button
                  class="act link"
                  aria-expanded={leaving?.id === member.id}
                  onclick={() => {
                    leaving = leaving?.id === member.id ? null : member;
                    heir = null;
                  }}>remove</button
                ></td
              >
            </tr>
            {#if leaving?.id === member.id}
              <tr class="leaving">
                <td colspan="4">
                  <label
                    >What {member.name} holds, and what came back to them, goes
                    <select class="field" bind:value={heir}>
                      <option value={null}>back to the queue</option>
                      {#each members.filter((m) => m.id !== member.id && m.role !== 'guest') as m (m.id)}<option value={m.id}
                          >to {m.name}</option
                        >{/each}
                    </select></label
                  >
                  <button class="act main" onclick={() => attempt(() => remove(member))}>Remove {member.name}</button>
                </td>
              </tr>
            {/if}
          {/each}
        </tbody>
      </table>
      {#if fresh}
        <div class="card mb-6">
          <LinkNote link={fresh.link} label="link for a new password"
            >Send {fresh.name} this link. It works once, for a day, and is not shown again:</LinkNote
          >
        </div>
      {/if}
      {#if candidates.length > 0}
        <h2 class="mb-1">Add</h2>
        <form
          class="card row mb-6"
          onsubmit={(e) => {
            e.preventDefault();
            const user = chosen;
            if (user !== null)
              void attempt(() => ask(api.POST('/projects/{project}/people', { ...parts(project.id), body: { user, role } })));
          }}
        >
          <div>
            <Label for="who" class="mb-1">somebody who has an account here</Label>
            <select id="who" class="field" bind:value={chosen} required>
              <option value={null} disabled>choose a person</option>
              {#each candidates as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
            </select>
          </div>
          <div><Label for="arole" class="mb-1">as</Label><Select id="arole" items={roles} bind:value={role} /></div>
          <Button type="submit" disabled={chosen === null}>Add</Button>
        </form>
      {/if}
      <h2 class="mb-1">Invite</h2>
      <form
        class="card"
        onsubmit={(e) => {
          e.preventDefault();
          void attempt(async () => {
            const made = await ask(api.POST('/projects/{project}/invitations', { ...parts(project.id), body: { role, note } }));
            link = location.origin + made.link;
            note = '';
          });
        }}
      >
        <div class="row">
          <div><Label for="role" class="mb-1">as</Label><Select id="role" items={roles} bind:value={role} /></div>
          <div>
            <Label for="note" class="mb-1">for whom (only you see this)</Label><Input id="note" bind:value={note} maxlength={120} />
          </div>
          <Button type="submit">Make a link</Button>
        </div>
        {#if link !== ''}
          <LinkNote {link} label="invitation link">Send this link. It works once, for a week, and is not shown again:</LinkNote>
        {/if}
      </form>
      {#if invitations.length > 0}
        <table class="dense mt-4">
          <thead><tr><th>open invitation</th><th>as</th><th>until</th><th></th></tr></thead>
          <tbody>
            {#each invitations as invitation (invitation.id)}
              <tr>
                <td>{invitation.note || '—'}</td><td>{invitation.role}</td><td
                  >{new Date(invitation.expires_at).toLocaleDateString('en-GB')}</td
                >
                <td
                  ><button
                    class="act link"
                    onclick={() =>
                      attempt(() =>
                        ask(
                          api.DELETE('/projects/{project}/invitations/{invitation}', {
                            params: { path: { project: project.id, invitation: invitation.id } }
                          })
                        )
                      )}>withdraw</button
                  ></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
    <form
      onsubmit={(e) => {
        e.preventDefault();
        saved = false;
        void attempt(async () => {
          project.project = await ask(api.PATCH('/projects/{project}', { ...parts(project.id), body: about }));
          saved = true;
        });
      }}
    >
      <h2 class="mb-1">Settings</h2>
      <div class="card">
        <Label for="pname" class="mb-1">name</Label><Input id="pname" bind:value={about.name} class="mb-3" />
        <Label for="pgroup" class="mb-1">group</Label><Input id="pgroup" bind:value={about.group} class="mb-3" />
        <Label for="pdesc" class="mb-1">description</Label><Textarea
          id="pdesc"
          bind:value={about.description}
          rows={4}
          class="mb-3 w-full"
        />
        <Toggle bind:checked={about.own_review} class="mb-4">people may review their own work</Toggle>
        <Toggle bind:checked={about.slip_guard} class="mb-4">doubt a class at the pointer when another fits the looks much better</Toggle>
        <Toggle bind:checked={about.require_seen} class="mb-2"
          >all of a picture must have been on the screen before submit, nothing here, or accept</Toggle
        >
        {#if about.require_seen}<label class="mb-4 block"
            >a pixel of the picture on at least
            <input class="field num" style:width="80px" type="number" min="0.1" max="8" step="0.1" bind:value={about.seen_zoom} /> pixels of the
            screen</label
          >{/if}
        <Button type="submit">Save</Button>
        {#if saved}<span role="status" class="ml-2">saved</span>{/if}
      </div>
    </form>
  </div>
</Shell>

<style>
  .two {
    display: grid;
    grid-template-columns: 3fr 2fr;
    gap: 24px;
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: end;
  }
  .row > div {
    flex: 1;
  }
  .row select {
    width: 100%;
  }
  .leaving td {
    background: var(--sunk);
    padding: 10px 12px;
  }
  .leaving label,
  .leaving select {
    margin-right: 10px;
  }
  .leaving select {
    width: auto;
    display: inline-block;
  }
</style>
