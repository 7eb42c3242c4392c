<script lang="ts">
  /** A model is connected by the address it lives at and a card that says what its tensors mean. It is tried on a picture while the card is written. */
  import type { Schemas } from '$lib/api/client';
  import type { Words } from '$lib/words/words.svelte';
  import type { Help } from './help.svelte';
  import Tried from './Tried.svelte';

  let { help, words, owner, item }: { help: Help; words: Words; owner: boolean; item: Schemas['Item'] | null } = $props();
  let address = $state('');
  let remote = $state('');
  let card = $state('');
  let open = $state(false);
  let allowed = $state('');
  let inHouse = $state(false);
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
  const connected = $derived(help.models.filter((m) => m.kind === 'connected'));
  const tried = $derived(help.tried.length === 1 && help.tried[0]!.item.id === item?.id ? help.tried[0] : null);

  async function connect(e: SubmitEvent) {
    e.preventDefault();
    const tries = (e.submitter as HTMLButtonElement | null)?.value === 'try';
    if (!(await help.connect(address, remote, card))) return;
    if (!tries) [remote, card, open] = ['', '', false];
    else if (item) await help.try([item.id]);
  }
  async function allow(e: SubmitEvent) {
    e.preventDefault();
    if (await help.allow(allowed, inHouse))
      [address, allowed] = [help.addresses.find((a) => a.address === allowed.replace(/\/$/, ''))?.address ?? address, ''];
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
  /** The card of one that is connected, to be written on. */
  function edit(model: Schemas['Model']) {
    [address, remote, card, open] = [model.address ?? '', model.remote, JSON.stringify(model.card, null, 2), true];
  }
</script>

<section aria-label="connected models">
  {#if !open}
    <button class="act" onclick={() => (open = true)}>Connect a model</button>
    {#each connected as m (m.id)}<button class="act link" onclick={() => edit(m)}>card of {m.name}</button>{/each}
  {:else}
    {#if owner}
      <form onsubmit={allow} class="allow">
        <label>allow an address <input class="field num" bind:value={allowed} required placeholder="https://models.example:8443" /></label>
        <label class="check"><input type="checkbox" bind:checked={inHouse} /> it may lead to a private network or this machine</label>
        <button class="act">Allow it</button>
      </form>
    {/if}
    {#if help.addresses.length === 0}
      <p class="soft">No address of models is allowed on this installation yet{owner ? '' : '; its owner allows them'}.</p>
    {:else}
      <form onsubmit={connect} class="connect" class:with={tried !== null}>
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
          <textarea class="field num" rows="16" bind:value={card} required placeholder={example} spellcheck="false"></textarea></label
        >
        {#if tried}<div class="result"><Tried {tried} from={help.wish.from} {words} /></div>{/if}
        <div class="row">
          <button class="act main">Connect</button>
          {#if item}<button class="act" value="try" disabled={help.trying}
              >{help.trying ? 'Trying…' : `Connect and try on ${item.name}`}</button
            >{/if}
          <button type="button" class="act" onclick={() => (open = false)}>Leave it</button>
        </div>
      </form>
    {/if}
  {/if}
</section>

<style>
  .allow {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 14px;
    align-items: end;
    margin-bottom: 8px;
  }
  .allow label {
    display: grid;
    gap: 3px;
    font-size: 13px;
  }
  .allow .check {
    display: flex;
    align-items: center;
    gap: 6px;
    padding-bottom: 8px;
  }
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
    align-content: start;
  }
  .wide,
  .row {
    grid-column: 1 / -1;
  }
  .with .wide {
    grid-column: 1 / 3;
  }
  .result {
    align-self: end;
  }
  .row {
    display: flex;
    gap: 8px;
  }
</style>
