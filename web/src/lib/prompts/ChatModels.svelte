<script lang="ts">
  /** The chat models prompts may ask. Whoever answers for the installation connects them; a key that was entered is never shown again. */
  import type { Schemas } from '$lib/api/client';
  import type { Prompts } from './prompts.svelte';

  let { prompts, owner, addresses }: { prompts: Prompts; owner: boolean; addresses: Schemas['Endpoint'][] } = $props();
  const fresh = () => ({
    name: '',
    address: '',
    remote: '',
    key: '',
    path: '/v1/chat/completions',
    most_tokens: 2000,
    priceIn: '',
    priceOut: ''
  });
  let open = $state(false);
  let of = $state(fresh());
  /** a press that takes a key away asks once more */
  let asked = $state<number | null>(null);
  const there = $derived(prompts.models.find((m) => m.name === of.name.trim()) ?? null);

  function edit(model: Schemas['ChatModel']) {
    of = {
      name: model.name,
      address: model.address,
      remote: model.remote,
      key: '',
      path: model.path,
      most_tokens: model.most_tokens,
      priceIn: String(model.price?.in ?? ''),
      priceOut: String(model.price?.out ?? '')
    };
    open = true;
  }
  async function connect(e: SubmitEvent) {
    e.preventDefault();
    const { priceIn, priceOut, ...rest } = of;
    const price = priceIn === '' && priceOut === '' ? null : { in: Number(priceIn), out: Number(priceOut) };
    if (await prompts.connect({ ...rest, name: rest.name.trim(), remote: rest.remote.trim(), key: rest.key.trim(), price })) {
      of = fresh();
      open = false;
    }
  }
  function take(model: Schemas['ChatModel']) {
    if (asked !== model.id) asked = model.id;
    else {
      asked = null;
      void prompts.disconnect(model);
    }
  }
</script>

<section aria-label="chat models">
  <h2>Chat models <span class="soft">asked by the chat-completions protocol</span></h2>
  {#if prompts.models.length > 0}
    <table class="dense">
      <thead><tr><th>name</th><th>asked at</th><th>called there</th><th>key</th><th>a million tokens read, written</th><th></th></tr></thead
      >
      <tbody>
        {#each prompts.models as m (m.id)}
          <tr
            ><td>{m.name}</td><td class="num">{m.address}{m.path}</td><td class="num">{m.remote}</td><td
              >{m.has_key ? 'kept, never shown' : 'none'}</td
            ><td class="num">{m.price ? `${m.price.in}, ${m.price.out}` : '–'}</td><td
              >{#if owner}<button class="act link" onclick={() => edit(m)}>change</button>
                <button class="act link" onclick={() => take(m)}>{asked === m.id ? 'yes, with its key' : 'take away'}</button>{/if}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  {:else if !owner}
    <p class="soft">None is connected yet; the owner of the installation connects them.</p>
  {/if}
  {#if owner && !open}<button class="act" onclick={() => (open = true)}>Connect a chat model</button>{/if}
  {#if owner && open}
    <form onsubmit={connect} class="connect">
      <label>name here <input class="field" bind:value={of.name} required maxlength="100" /></label>
      <label
        >address
        <select class="field" bind:value={of.address} required>
          <option value="" disabled>which?</option>
          {#each addresses as a (a.id)}<option value={a.address}>{a.address}</option>{/each}
        </select></label
      >
      <label>its name there <input class="field" bind:value={of.remote} required maxlength="200" /></label>
      <label
        >key <input
          class="field num"
          type="password"
          autocomplete="off"
          bind:value={of.key}
          placeholder={there?.has_key ? 'the one that is kept, while the address stays' : 'where it wants one'}
        /></label
      >
      <label>path <input class="field num" bind:value={of.path} required /></label>
      <label
        >tokens of a reply at most <input
          class="field num"
          type="number"
          min="1"
          max="100000"
          bind:value={of.most_tokens}
          required
        /></label
      >
      <label>price of a million tokens read <input class="field num" inputmode="decimal" bind:value={of.priceIn} /></label>
      <label>written <input class="field num" inputmode="decimal" bind:value={of.priceOut} /></label>
      <div class="row">
        <button class="act main">{there ? 'Change it' : 'Connect'}</button>
        <button
          type="button"
          class="act"
          onclick={() => {
            of = fresh();
            open = false;
          }}>Leave it</button
        >
        {#if addresses.length === 0}<span class="soft"
            >no address is allowed yet: allow one under “models for pictures”, Connect a model</span
          >{/if}
      </div>
    </form>
  {/if}
</section>

<style>
  .connect {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 8px 16px;
    background: var(--sunk);
    border-radius: 4px;
    padding: 12px 14px;
    margin-top: 8px;
  }
  .connect label {
    display: grid;
    gap: 3px;
    font-size: 13px;
    align-content: start;
  }
  .row {
    grid-column: 1 / -1;
    display: flex;
    gap: 8px;
    align-items: center;
  }
</style>
