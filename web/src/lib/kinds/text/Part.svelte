<script lang="ts">
  /** Some paragraphs: they are laid out and drawn together, and only while they are near what is in sight. A long text has a hundred of these. */
  import Block from './Block.svelte';
  import type { TextSurface } from './surface.svelte';

  let {
    surface,
    first,
    count,
    width,
    watch
  }: {
    surface: TextSurface;
    /** index of its first block */
    first: number;
    count: number;
    width: number;
    watch: (part: HTMLElement, told: (near: boolean) => void) => () => void;
  } = $props();
  let near = $state(false);
</script>

<section style:--blocks={count} {@attach (el) => watch(el as HTMLElement, (is) => (near = is))}>
  {#each { length: count }, i}<Block {surface} index={first + i} {width} {near} />{/each}
</section>

<style>
  section {
    content-visibility: auto;
    contain-intrinsic-size: auto calc(60px * var(--blocks));
    /* what stands beside the words or above the first of them is not cut off: as far as the margins of the article go */
    margin: -14px -30px 0 -110px;
    padding: 14px 30px 0 110px;
    /* (its upper margin lies over the end of the part before) */
    pointer-events: none;
  }
</style>
