<script lang="ts">
  /** Why what lies on the stage can't be shown. */
  let { why }: { why: string } = $props();
</script>

<p class="failed" role="alert">{why}</p>

<style>
  .failed {
    position: absolute;
    left: 12px;
    top: 12px;
    background: var(--panel);
    border-left: 3px solid var(--accent);
    padding: 7px 10px;
    border-radius: 4px;
  }
</style>
