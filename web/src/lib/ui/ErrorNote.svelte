<script lang="ts">
  /** What happened, what was kept and what to do. */
  let { message, children }: { message: string; children?: import('svelte').Snippet } = $props();
</script>

{#if message !== ''}
  <div role="alert" class="note">{message}{@render children?.()}</div>
{/if}

<style>
  .note {
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 10%, var(--panel));
    padding: 7px 12px;
    border-radius: 4px;
    margin: 8px 0;
    overflow-wrap: anywhere;
  }
</style>
