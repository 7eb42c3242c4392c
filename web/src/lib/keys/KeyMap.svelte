<script lang="ts">
  /** What every key does now. */
  import Dialog from '$lib/ui/Dialog.svelte';
  import { keyName, type Bindings } from './bindings';
  import type { Cap } from './caps';

  let {
    caps,
    others,
    keys,
    close
  }: { caps: readonly Cap[]; others: readonly { keys: string; what: string }[]; keys: Bindings; close: () => void } = $props();
</script>

<Dialog label="key map" {close}>
  <h2>Keys now</h2>
  <dl>
    {#each caps as c (c.code)}<div>
        <dt><kbd>{keyName(c.code, keys)}</kbd></dt>
        <dd>{c.word}</dd>
      </div>{/each}
    {#each others as o (o.keys)}<div>
        <dt><kbd>{o.keys}</kbd></dt>
        <dd>{o.what}</dd>
      </div>{/each}
  </dl>
  <button class="act" onclick={close}>Close</button>
</Dialog>

<style>
  h2 {
    margin-bottom: 8px;
  }
  dl {
    columns: 2;
    column-gap: 26px;
    margin-bottom: 12px;
  }
  dl > div {
    display: grid;
    grid-template-columns: minmax(92px, max-content) minmax(0, 1fr);
    gap: 10px;
    break-inside: avoid;
    padding: 2px 0;
  }
  kbd {
    white-space: nowrap;
  }
</style>
