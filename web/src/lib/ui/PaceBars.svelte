<script lang="ts">
  /** A person's own last two weeks: submitted day by day, and what of it came back. */
  import type { Schemas } from '$lib/api/client';
  let { days, seconds }: { days: Schemas['Day'][]; seconds: number } = $props();

  const DAYS = 14;
  const HIGH = 34;
  const shown = $derived.by(() => {
    const byDay = new Map(days.map((d) => [d.day, d]));
    const today = Date.now();
    return Array.from({ length: DAYS }, (_, i) => {
      const date = new Date(today - (DAYS - 1 - i) * 86_400_000);
      const day = date.toISOString().slice(0, 10);
      const found = byDay.get(day);
      return {
        day,
        weekend: [0, 6].includes(date.getUTCDay()),
        submitted: found?.submitted ?? 0,
        returned: found?.returned ?? 0,
        word: date.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
      };
    });
  });
  const most = $derived(Math.max(5, ...shown.map((d) => Math.max(d.submitted, d.returned))));
  const sum = $derived(shown.reduce((a, d) => a + d.submitted, 0));
  const height = (n: number) => Math.round((HIGH * n) / most);
</script>

<figure>
  <div class="bars" role="img" aria-label="submitted in the last two weeks: {shown.map((d) => `${d.word} ${d.submitted}`).join(', ')}">
    {#each shown as d (d.day)}
      <span
        class="day"
        class:weekend={d.weekend}
        title="{d.word}: {d.submitted} submitted{d.returned > 0 ? `, ${d.returned} came back` : ''}"
      >
        <i class="sent" style:height="{height(d.submitted)}px"></i>
        {#if d.returned > 0}<i class="back" style:height="{Math.max(2, height(d.returned))}px"></i>{/if}
      </span>
    {/each}
  </div>
  <figcaption class="soft">
    <span class="num">{sum}</span> in two weeks · <span class="num">{Math.round(seconds / 60)}</span> min at the bench
  </figcaption>
</figure>

<style>
  figure {
    min-width: 210px;
  }
  .bars {
    display: flex;
    align-items: flex-end;
    gap: 3px;
    height: 36px;
    border-bottom: 1px solid var(--edge);
  }
  .day {
    position: relative;
    flex: 1;
    height: 100%;
    display: flex;
    align-items: flex-end;
  }
  .weekend {
    background: var(--sunk);
  }
  .sent {
    width: 100%;
    background: var(--primary);
    border-radius: 1px 1px 0 0;
  }
  .back {
    position: absolute;
    right: 0;
    bottom: 0;
    width: 45%;
    background: var(--accent);
  }
  figcaption {
    font-size: 12.5px;
    padding-top: 3px;
    white-space: nowrap;
  }
</style>
