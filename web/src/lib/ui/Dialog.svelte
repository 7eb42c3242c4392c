<script lang="ts">
  /** A dialog of the browser: it has the focus while it is open, and gives it back. Modal unless what lies behind it is to be worked on. */
  import { onMount, type Snippet } from 'svelte';

  let { label, close, modal = true, children }: { label: string; close: () => void; modal?: boolean; children: Snippet } = $props();
  let dialog: HTMLDialogElement;
  onMount(() => {
    const before = document.activeElement;
    if (modal) dialog.showModal();
    else dialog.show();
    return () => {
      if (dialog.open) dialog.close();
      if (before instanceof HTMLElement && before.isConnected) before.focus({ preventScroll: true });
    };
  });
</script>

<dialog
  bind:this={dialog}
  class:modal
  aria-label={label}
  oncancel={(e) => {
    e.preventDefault();
    close();
  }}
  onclose={() => close()}
>
  {@render children()}
</dialog>

<style>
  dialog {
    background: var(--panel);
    color: var(--ink);
    border: 1px solid var(--edge);
    border-radius: 4px;
    box-shadow: 0 10px 40px rgb(0 0 0 / 0.4);
    padding: 18px 22px;
  }
  .modal {
    margin: 70px auto auto;
    width: min(680px, 92vw);
    max-height: calc(100vh - 100px);
    overflow: auto;
  }
  .modal::backdrop {
    background: rgb(10 13 12 / 0.45);
  }
</style>
