<script lang="ts">
  /** The deck's places on one's own keys. A key that is taken is said, and the two swap. */
  import { bind, bindable, clash, keyName, mirrored, places, type Bindings } from './bindings';
  import { session } from '$lib/state/session.svelte';

  let bound = $state<Bindings>({ ...(session.user?.settings.keys ?? {}) });
  let asking = $state<string | null>(null);
  let warning = $state<{ place: string; code: string; other: string } | null>(null);
  let said = $state('');
  let error = $state('');
  /** what a place does when nothing else is going on, to find it by */
  const does: Record<string, string> = Object.fromEntries(
    'pick,pan,draw,answer,hide,double,submit,remove,mark…,take back,whole,closer,back,on,next open'
      .split(',')
      .map((word, i) => [places[i]!, word])
  );
  const keyOf = (place: string) => bound[place] ?? place;

  async function keep(next: Bindings) {
    bound = next;
    asking = warning = null;
    error = '';
    try {
      await session.set({ keys: next });
      said = 'kept';
    } catch (e) {
      error = (e as Error).message;
    }
  }
  function pressed(e: KeyboardEvent) {
    if (asking === null || e.code === 'Tab') return;
    e.preventDefault();
    said = '';
    if (e.code === 'Escape') {
      asking = null;
      return;
    }
    if (!bindable(e.code)) {
      said = `${keyName(e.code)} has a meaning of its own; letters and the signs beside them can be taken`;
      return;
    }
    const other = clash(asking, e.code, bound);
    if (other) warning = { place: asking, code: e.code, other };
    else void keep(bind(asking, e.code, bound));
  }
</script>

<svelte:window onkeydown={pressed} />

<section class="card mb-4 max-w-2xl" aria-label="keys of the deck">
  <h2 class="mb-1">Keys of the deck</h2>
  <p class="soft mb-3">Press a cap, then the key it shall lie on. Digits stay the classes.</p>
  <div class="rows">
    {#each [0, 5, 10] as from (from)}
      <div class="row" style:margin-left="{from * 2.6}px">
        {#each places.slice(from, from + 5) as place (place)}
          <button
            class="cap"
            aria-pressed={asking === place}
            onclick={() => {
              asking = asking === place ? null : place;
              warning = null;
              said = '';
            }}><kbd>{keyName(keyOf(place))}</kbd><span class="soft">{does[place]}</span></button
          >
        {/each}
      </div>
    {/each}
  </div>
  {#if asking && !warning}<p class="mt-2" role="status">{said || `press a key for “${does[asking]}”; Esc leaves it`}</p>
  {:else if warning}
    <p class="mt-2" role="alert">
      {keyName(warning.code)} is the key of “{does[warning.other]}” already.
      <button class="act" onclick={() => warning && keep(bind(warning.place, warning.code, bound))}>Swap the two</button>
      <button class="act" onclick={() => (warning = asking = null)}>Leave it</button>
    </p>
  {:else if error}<p class="mt-2" role="alert">{error}</p>
  {:else}<p class="mt-2 soft" role="status">{said}</p>{/if}
  <p class="mt-2">
    <button class="act" onclick={() => keep({ ...mirrored })}>Right half of the keyboard</button>
    <button class="act" disabled={Object.keys(bound).length === 0} onclick={() => keep({})}>As shipped</button>
  </p>
</section>

<style>
  .rows {
    display: grid;
    gap: 5px;
  }
  .row {
    display: flex;
    gap: 5px;
  }
  .cap {
    width: 74px;
    height: 44px;
    border: 1px solid var(--edge);
    border-radius: 4px;
    cursor: pointer;
    font-size: 11.5px;
    display: grid;
    place-items: center;
    line-height: 1.15;
  }
  .cap[aria-pressed='true'] {
    border-color: var(--primary);
    outline: 2px solid var(--primary);
  }
  kbd {
    font-size: 15px;
  }
</style>
