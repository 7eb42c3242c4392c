<script lang="ts">
  /** How label files are read: their format, what they come in as, and what a picture without objects means. */
  import { formats } from '$lib/state/formats';

  let { options = $bindable() }: { options: { format: string; as: string; empty: string } } = $props();
</script>

<label
  >read as <select class="field" bind:value={options.format}
    >{#each formats as [value, word] (value)}<option {value}>{word}</option>{/each}</select
  ></label
>
<label
  >they come in as <select class="field" bind:value={options.as}
    ><option value="labels">labels</option><option value="suggestions">suggestions</option></select
  ></label
>
<label
  >a picture without objects <select class="field" bind:value={options.empty}
    ><option value="unlabelled">is not labelled</option><option value="nothing">has nothing there</option></select
  ></label
>

<style>
  select {
    width: auto;
  }
</style>
