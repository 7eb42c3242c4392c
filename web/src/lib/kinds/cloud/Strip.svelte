<script lang="ts">
  /** The frames of the cloud with a lane for each object. */
  import Timeline from '$lib/time/Timeline.svelte';
  import type { Surface } from '../kind';
  import type { CloudSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as CloudSurface);
</script>

{#if own.following.mark !== null}
  <p class="to" role="status">followed over <span class="num">{own.following.count}</span> frames so far; Esc stops and keeps them</p>
{/if}
<Timeline
  timeline={own.axis.timeline}
  word="frame"
  says={(frame) => `${(own.item.cloud!.points[frame] ?? 0).toLocaleString('en')} points`}
  rate={1}
  editable={own.editable}
  markedFrames={(subject, from, to) => own.axis.markFrames(subject, from, to)}
  movedKey={(id, from, to) => {
    const mark = own.axis.tracks.of(id) && own.ports.editor.marks.get(id);
    if (mark && own.editable && own.axis.acts.moveKey(mark, from, to)) void own.go(to);
  }}
/>

<style>
  .to {
    margin: 0;
    padding: 3px 10px;
    color: var(--soft);
    font-size: 12px;
  }
</style>
