<script lang="ts">
  /** A model is connected by the address it lives at and a card that says what its tensors mean. */
  import type { Help } from './help.svelte';

  let { help, owner }: { help: Help; owner: boolean } = $props();
  let address = $state('');
  let remote = $state('');
  let card = $state('');
  let open = $state(false);
  const example = JSON.stringify(
    {
      skeno: 'card/1',
      name: 'my-model',
      input: { tensor: 'image', width: 640, height: 640, size: 'fit', layout: 'NCHW', datatype: 'FP32', scale: 0.00392157 },
      outputs: { boxes: 'boxes', scores: 'scores', classes: 'classes' },
      classes: ['apple']
    },
    null,
    2
  );
  async function connect(e: SubmitEvent) {
    e.preventDefault();
    if (await help.connect(address, remote, card)) [remote, card, open] = ['', '', false];
  }
  async function read(e: Event) {
    const file = (e.target as HTMLInputElement).files?.[0];
    if (!file) return;
    card = await file.text();
    try {
      remote ||= String(JSON.parse(card).name ?? '');
    } catch {
      // said when it is sent
    }
  }
</script>

{#if help.addresses.length === 0}
  <p class="soft">
    No address of models is allowed on this installation yet{owner
      ? ': php artisan skeno:models --allow=https://models.example'
      : '; its owner allows them'}.
  </p>
{:else if !open}
  <button class="act" onclick={() => (open = true)}>Connect a model</button>
{:else}
  <form onsubmit={connect} class="connect">
    <label
      >address
      <select class="field" bind:value={address} required>
        <option value="" disabled>which?</option>
        {#each help.addresses as a (a.id)}<option value={a.address}>{a.address}</option>{/each}
      </select></label
    >
    <label>its name there <input class="field" bind:value={remote} required placeholder="name or name@version" /></label>
    <label>card from a file <input type="file" accept=".json,application/json" onchange={read} /></label>
    <label class="wide"
      >card: what its tensors mean
      <textarea class="field num" rows="12" bind:value={card} required placeholder={example} spellcheck="false"></textarea></label
    >
    <div><button class="act main">Connect</button> <button type="button" class="act" onclick={() => (open = false)}>Leave it</button></div>
  </form>
{/if}

<style>
  .connect {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 8px 16px;
    background: var(--sunk);
    border-radius: 4px;
    padding: 12px 14px;
  }
  .connect label {
    display: grid;
    gap: 3px;
    font-size: 13px;
  }
  .wide {
    grid-column: 1 / -1;
  }
</style>
