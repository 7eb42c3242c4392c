<script lang="ts">
  /** What one version of a prompt gained on another, on the same texts, and on which of them. */
  import type { Schemas } from '$lib/api/client';
  import type { Words } from '$lib/words/words.svelte';

  let { gain, words, href }: { gain: Schemas['PromptGain']; words: Words; /** to a text, side by side */ href: (item: number) => string } =
    $props();
  const FIRST = 8;
  let all = $state(false);
  /** a gain in hundredths, with where it lies nineteen times in twenty */
  const points = (of: Schemas['Interval'] | null): string => {
    const one = (v: number) => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(100 * v).toFixed(1)}`;
    return of ? `${one(of.value)} (${one(of.low)} to ${one(of.high)})` : '–';
  };
  const sure = (of: Schemas['Interval'] | null): string =>
    of === null ? '' : of.low > 0 ? 'better' : of.high < 0 ? 'worse' : 'within chance';
  const rows = $derived([
    ['F1 of spans, exact', gain.exact] as const,
    ['F1 of spans, overlapping', gain.overlapping] as const,
    ...Object.entries(gain.answers).map(
      ([key, of]) => [`${words.document.attributes?.find((a) => a.key === key)?.name ?? key}, as accepted`, of] as const
    )
  ]);
  const better = $derived(gain.changed.reduce((n, c) => n + c.better, 0));
  const worse = $derived(gain.changed.reduce((n, c) => n + c.worse, 0));
</script>

<section aria-label="gain">
  <h3>
    Against {gain.trial.prompt}, version <span class="num">{gain.trial.number}</span>
    <span class="soft">on the <span class="num">{gain.items}</span> texts both were answered about, in hundredths</span>
  </h3>
  <div class="both">
    <table class="dense">
      <tbody>
        {#each rows as [name, of] (name)}<tr><td>{name}</td><td class="num">{points(of)}</td><td class="soft">{sure(of)}</td></tr>{/each}
      </tbody>
    </table>
    <div>
      <p>
        {#if gain.changed.length === 0}nothing changed{:else}<span class="num">{gain.changed.length}</span> texts changed:
          <b class="num">{better}</b> things are right now, <b class="num">{worse}</b> are wrong now{/if}
      </p>
      <ul>
        {#each gain.changed.slice(0, all ? undefined : FIRST) as c (c.item)}<li>
            <a class="plain" href={href(c.item)}>{c.path ?? 'a text that is gone'}</a>
            <span class="num soft">{c.better} right, {c.worse} wrong</span>
          </li>{/each}
      </ul>
      {#if gain.changed.length > FIRST && !all}<button class="act link" onclick={() => (all = true)}>all {gain.changed.length}</button>{/if}
    </div>
  </div>
</section>

<style>
  h3 {
    margin: 14px 0 6px;
    font-weight: 650;
  }
  h3 .soft {
    font-weight: 400;
  }
  .both {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 24px;
    align-items: start;
  }
  li {
    display: flex;
    gap: 10px;
  }
</style>
