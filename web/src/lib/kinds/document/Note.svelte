<script lang="ts">
  /** What waits on the page in hand, and how far the words of the document are read. */
  import FlatNote from '../flat/Note.svelte';
  import type { Surface } from '../kind';
  import type { DocumentSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const { behind } = $derived(surface as DocumentSurface);
  const { now } = $derived(behind);
  const words: Record<string, string> = {
    waiting: 'wait to be read',
    working: 'are being read',
    failed: 'could not all be read',
    cancelled: 'are not read on'
  };
</script>

<FlatNote {surface} />
{#if now && now.state !== 'done'}
  <div class="say" role="status" aria-label="reading">
    The words {words[now.state]}: <span class="num">{now.done}</span> of <span class="num">{now.total}</span>
    {now.total === 1 ? 'page' : 'pages'}{now.error ? ` (${now.error})` : ''}. A page you draw on is read at once.
    {#if behind.manages}
      {#if now.state === 'failed' || now.state === 'cancelled'}<button class="act" onclick={() => void behind.goOn()}>Read on</button>
      {:else}<button class="act" onclick={() => void behind.stop()}>Stop</button>{/if}
    {/if}
  </div>
{/if}

<style>
  .say {
    margin: 6px 8px 0;
    padding: 7px 10px;
    border-left: 3px solid var(--primary);
    border-radius: 4px;
    font-size: 13px;
  }
  .act {
    margin-left: 4px;
  }
</style>
