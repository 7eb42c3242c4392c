<script lang="ts">
  /** A link that is shown once, to be sent on. */
  let { link, label, children }: { link: string; label: string; children: import('svelte').Snippet } = $props();
</script>

<p class="mt-3 mb-1">{@render children()}</p>
<div class="row">
  <input class="field num" readonly value={link} aria-label={label} onfocus={(e) => e.currentTarget.select()} /><button
    type="button"
    class="act"
    onclick={() => navigator.clipboard.writeText(link)}>copy</button
  >
</div>

<style>
  .row {
    display: flex;
    gap: 10px;
    align-items: end;
  }
  .row input {
    flex: 1;
  }
</style>
