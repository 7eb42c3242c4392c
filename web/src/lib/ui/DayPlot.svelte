<script lang="ts">
  /** Submitted, accepted and returned by day. */
  import uPlot from 'uplot';
  import 'uplot/dist/uPlot.min.css';
  import type { Schemas } from '$lib/api/client';
  import { themed } from '$lib/state/theme.svelte';

  let { days }: { days: Schemas['Day'][] } = $props();
  let width = $state(600);

  function draw(node: HTMLElement) {
    let plot: uPlot | undefined;
    $effect(() => {
      // its colours are those of the theme it was drawn in
      void themed.now;
      const css = getComputedStyle(document.documentElement);
      const color = (name: string) => css.getPropertyValue(name).trim();
      const axis = { stroke: color('--soft'), grid: { stroke: color('--line'), width: 1 }, font: '12px Hanken Grotesk Variable' };
      const line = (label: string, stroke: string, dash?: number[]) => ({
        label,
        stroke,
        width: 2,
        dash,
        points: { show: true, size: 6, fill: stroke }
      });
      plot?.destroy();
      plot = new uPlot(
        {
          width,
          height: 190,
          legend: { show: true, live: false },
          scales: { x: { time: true }, y: { range: (_u, _min, max) => [0, Math.max(5, max * 1.1)] } },
          axes: [
            {
              ...axis,
              values: (_u, splits) =>
                splits.map((s) => new Date(s * 1000).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })),
              incrs: [86400, 7 * 86400, 30 * 86400]
            },
            { ...axis, size: 36 }
          ],
          tzDate: (ts) => uPlot.tzDate(new Date(ts * 1000), 'Etc/UTC'),
          series: [
            { value: (_u, v) => (v === null ? '' : new Date(v * 1000).toLocaleDateString('en-GB', { timeZone: 'UTC' })) },
            line('submitted', color('--ink')),
            line('accepted', color('--primary')),
            line('returned', color('--accent'), [5, 4])
          ]
        },
        [
          days.map((d) => Date.parse(`${d.day}T00:00:00Z`) / 1000),
          days.map((d) => d.submitted),
          days.map((d) => d.accepted),
          days.map((d) => d.returned)
        ],
        node
      );
    });
    return { destroy: () => plot?.destroy() };
  }
</script>

<div
  bind:clientWidth={width}
  role="img"
  aria-label="by day: {days.map((d) => `${d.day} ${d.submitted} submitted, ${d.accepted} accepted, ${d.returned} returned`).join('; ')}"
>
  {#if days.length > 0}<div use:draw></div>{:else}<p class="soft">Nothing has been submitted yet.</p>{/if}
</div>
