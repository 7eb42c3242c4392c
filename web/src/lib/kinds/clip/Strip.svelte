<script lang="ts">
  /** The time of the clip, and the field to go to a frame by its number or its time. */
  import Timeline from '$lib/time/Timeline.svelte';
  import { placeOf } from '$lib/time/goto';
  import GoForm from '../flat/GoForm.svelte';
  import type { Surface } from '../kind';
  import type { ClipSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as ClipSurface);
  let step = $state('');

  function go(wanted: string): string {
    const place = placeOf(wanted, own.clock.times);
    if (place === null) return `a frame from 1 to ${own.clock.last + 1}, or a time such as 0:04.5`;
    if (step.trim() !== '') own.clock.setStep(Number(step));
    own.go(place);
    return '';
  }
  function close() {
    own.asking = false;
    step = '';
  }
</script>

{#if own.asking}
  <GoForm label="frame or time" placeholder="{own.clock.frame + 1} or 0:04.5" {go} {close}>
    <label
      >longer step <input
        class="field"
        bind:value={step}
        inputmode="numeric"
        placeholder={String(own.clock.step)}
        aria-label="longer step"
      /></label
    >
  </GoForm>
{/if}
{#if own.following.mark !== null || own.recutting.mark !== null}
  <p class="to" role="status">
    {#if own.following.mark !== null}followed over <span class="num">{own.following.count}</span> frames so far
    {:else}cut out again: <span class="num">{own.recutting.count}</span> outlines so far{/if}; Esc stops and keeps them
  </p>
{/if}
<Timeline
  timeline={own.timeline}
  wave={own.clip.wave}
  rate={own.item.clip!.rate}
  editable={own.plane.editable}
  markedFrames={(subject, from, to) => own.markFrames(subject, from, to)}
  movedKey={(id, from, to) => {
    const mark = own.tracks.of(id) && own.plane.ports.editor.marks.get(id);
    if (mark && own.plane.editable && own.acts.moveKey(mark, from, to)) own.go(to);
  }}
/>

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
</style>
