<script lang="ts">
  /** The one form in which something is written about the item. What is written stays until it has arrived, also over a reload. */
  import { focused } from '$lib/ui/focus';
  import type { Bench } from './bench.svelte';
  import type { Opened } from './opened.svelte';

  let { bench, opened, left }: { bench: Bench; opened: Opened; left: () => void } = $props();
  const { talk, hand, acts } = $derived(opened);
  const what = $derived(talk.writing);
  const words = {
    ask: 'Ask',
    park: 'Park',
    return: 'Return',
    pin: 'Pin'
  } as const;
  const label = $derived.by(() => {
    if (what === 'park') return 'Park: why is it set aside?';
    if (what === 'return') return `Return to ${opened.packet.turn.labeller?.name ?? 'the labeller'}: what should be done?`;
    if (what === 'pin' && talk.at)
      return `pin ${talk.at.x === null || talk.at.y === null ? 'on these words' : `at ${Math.round(talk.at.x)}, ${Math.round(talk.at.y)}`}: what is wrong here?`;
    return `Ask about ${hand.mark ? acts.label(hand.mark) : `this ${opened.surface.noun}`}: manager and reviewers answer here`;
  });
  async function send() {
    const sent = what;
    await talk.send((step, text) => (step === 'park' ? bench.park(text) : bench.decide('return', text)));
    if (talk.writing === null && sent !== null) left();
  }
</script>

{#if what !== null}
  {#key what}
    <form
      class="say"
      onsubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <label for="words">{label}</label>
      {#if what === 'pin'}
        <input
          id="words"
          class="field"
          data-field
          maxlength="1000"
          required
          bind:value={talk.text}
          oninput={() => talk.keep()}
          {@attach focused}
        />
      {:else}
        <textarea
          id="words"
          class="field"
          data-field
          rows="3"
          maxlength={what === 'park' ? 1000 : 2000}
          required={what !== 'return'}
          bind:value={talk.text}
          oninput={() => talk.keep()}
          {@attach focused}
          onkeydown={(e) => {
            if (e.key !== 'Enter' || !(e.ctrlKey || e.metaKey)) return;
            e.preventDefault();
            void send();
          }}></textarea>
      {/if}
      <div>
        <button class="act main" disabled={talk.sending}>{words[what]}</button>
        <button
          type="button"
          class="act"
          onclick={() => {
            talk.close();
            left();
          }}>Not now</button
        >
      </div>
    </form>
  {/key}
{/if}

<style>
  .say {
    margin: 6px 8px 0;
    padding: 7px 10px;
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
    border-radius: 4px;
    font-size: 13px;
    display: grid;
    gap: 5px;
  }
</style>
