<script lang="ts">
  /** The slices of the volume with a lane for each object, and the field to go to one by its number. */
  import Timeline from '$lib/time/Timeline.svelte';
  import GoForm from '../flat/GoForm.svelte';
  import type { Surface } from '../kind';
  import type { VolumeSurface } from './surface.svelte';
  let { surface }: { surface: Surface } = $props();
  const own = $derived(surface as VolumeSurface);
  let step = $state('');

  function go(wanted: string): string {
    const n = Number(wanted.trim());
    if (!Number.isInteger(n) || n < 1 || n > own.clock.last + 1) return `a slice from 1 to ${own.clock.last + 1}`;
    if (step.trim() !== '') own.clock.setStep(Number(step));
    void own.go(n - 1);
    return '';
  }
  function close() {
    own.asking = false;
    step = '';
  }
</script>

{#if own.asking}
  <GoForm label="slice" placeholder={String(own.clock.frame + 1)} {go} {close}>
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
<Timeline
  timeline={own.timeline}
  word="slice"
  says={(slice) => `${(slice * own.item.volume!.spacing[2]!).toFixed(1)} mm`}
  rate={1}
  editable={own.plane.editable}
  markedFrames={(subject, from, to) => own.markFrames(subject, from, to)}
  movedKey={(id, from, to) => {
    const mark = own.tracks.of(id) && own.plane.ports.editor.marks.get(id);
    if (mark && own.plane.editable && own.acts.moveKey(mark, from, to)) void own.go(to);
  }}
/>
