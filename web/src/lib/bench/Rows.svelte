<script lang="ts">
  /** A block of the ledger's rows. Rows far from what is in sight are not there: thousands of marks cost what a screenful does. */
  import type { Words } from '$lib/words/words.svelte';
  import type { Opened } from './opened.svelte';
  import Row from './Row.svelte';

  let {
    opened,
    words,
    rows,
    total,
    user,
    left,
    watch
  }: {
    opened: Opened;
    words: Words;
    /** marks, each with its number within its class */
    rows: readonly { id: string; n: number }[];
    /** rows of the class */
    total: number;
    user: number;
    left: () => void;
    /** says when a block comes near what is in sight, and when it has gone */
    watch: (block: HTMLElement, told: (near: boolean) => void) => () => void;
  } = $props();

  /** Height of a closed row in px. */
  const ROW = 23;
  let near = $state(false);
  const { hand } = $derived(opened);
  // what is in hand has its row, wherever the list is scrolled to: its questions are answered there
  const shown = $derived(near ? rows : hand.selected === null ? [] : rows.filter((r) => r.id === hand.selected));
</script>

<div
  role="presentation"
  style:min-height={near ? undefined : `${rows.length * ROW}px`}
  {@attach (block) => watch(block, (is) => (near = is))}
>
  {#each shown as { id, n } (id)}<Row {opened} {words} {id} {n} {total} {user} {left} />{/each}
</div>
