<script lang="ts">
  /** The sign of a class: a shape as well as a colour. */
  let { marker, color, size = 12 }: { marker: string; color: string; size?: number } = $props();
</script>

<svg width={size} height={size} viewBox="0 0 12 12" aria-hidden="true" class="marker">
  {#if marker === 'circle'}<circle cx="6" cy="6" r="5" fill={color} />
  {:else if marker === 'ring'}<circle cx="6" cy="6" r="4.2" fill="none" stroke={color} stroke-width="1.8" />
  {:else if marker === 'square'}<rect x="1.2" y="1.2" width="9.6" height="9.6" fill={color} />
  {:else if marker === 'frame'}<rect x="2" y="2" width="8" height="8" fill="none" stroke={color} stroke-width="1.8" />
  {:else if marker === 'triangle'}<path d="M6 .8 11.4 11H.6Z" fill={color} />
  {:else if marker === 'diamond'}<path d="M6 .4 11.6 6 6 11.6.4 6Z" fill={color} />
  {:else if marker === 'cross'}<path d="M2 2l8 8M10 2l-8 8" stroke={color} stroke-width="2.4" />
  {:else}<rect x=".6" y="4" width="10.8" height="4" fill={color} />{/if}
</svg>

<style>
  .marker {
    flex: none;
    display: inline-block;
  }
</style>
