<script lang="ts">
  /** Goes to a place on the item's axis by what is typed: a page, a frame, a time. */
  import type { Snippet } from 'svelte';

  let {
    label,
    placeholder,
    numeric = false,
    go,
    close,
    children
  }: {
    label: string;
    placeholder: string;
    numeric?: boolean;
    /** @returns what is wrong with what was typed; '': it is gone to */
    go: (wanted: string) => string;
    close: () => void;
    /** further fields */
    children?: Snippet;
  } = $props();
  let wanted = $state('');
  let fault = $state('');

  function submit(e: SubmitEvent) {
    e.preventDefault();
    fault = go(wanted);
    if (fault === '') close();
  }
</script>

<form class="to" onsubmit={submit} data-keeps-focus>
  <label
    >{label}
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="field"
      class:num={numeric}
      autofocus
      bind:value={wanted}
      inputmode={numeric ? 'numeric' : undefined}
      {placeholder}
      aria-label={label}
    />
  </label>
  {@render children?.()}
  <button class="act main">Go</button>
  <button class="act" type="button" onclick={close}>Close</button>
  {#if fault}<span role="alert">{fault}</span>{/if}
</form>

<style>
  .to {
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 5px 10px;
    background: var(--panel);
    border-top: 1px solid var(--line);
    font-size: 13px;
  }
  .to :global(label) {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .to :global(.field) {
    width: 110px;
  }
</style>
