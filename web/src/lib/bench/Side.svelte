<script lang="ts">
  /** Beside the item: what has to be settled, what was said, what is to do, and the marks. */
  import Delivery from '$lib/edits/Delivery.svelte';
  import type { Value } from '$lib/edits/history';
  import type { Mark } from '$lib/words/mark';
  import { X } from '@lucide/svelte';
  import type { Bench } from './bench.svelte';
  import Ledger from './Ledger.svelte';
  import type { Opened } from './opened.svelte';
  import Facts from './Facts.svelte';
  import Write from './Write.svelte';

  let { bench, opened, left }: { bench: Bench; opened: Opened; left: () => void } = $props();
  const { talk, surface, earlier, editor, hand } = $derived(opened);
  const packet = $derived(opened.packet);
  const todo = $derived(opened.todo());
  const name = (value: Value | null) =>
    value === null
      ? 'A mark'
      : 'tags' in value
        ? 'What is said of this item'
        : 'dropped' in value
          ? 'A suggestion'
          : 'mark' in value
            ? `${bench.words.nameOf(opened.editor.marks.get(value.mark)?.class ?? '')} at ${value.place + 1}`
            : bench.words.nameOf(value.class);
  const since = $derived(earlier.changes);
  /** @param places of a track: where it was changed; each press leads to the next of them */
  async function show(mark: Mark, places: readonly number[]) {
    if (editor.marks.get(mark.id)) hand.select(mark.id);
    const next = places.find((p) => p > (surface.place ?? -1)) ?? places[0];
    if (next !== undefined) await surface.go?.(next);
    surface.show(editor.marks.get(mark.id) ?? mark);
  }
</script>

<div class="side">
  {#if bench.message !== ''}<div class="say" role="alert">
      {bench.message}<button aria-label="dismiss" onclick={() => (bench.message = '')}><X size={14} /></button>
    </div>{/if}
  <Delivery
    outbox={bench.outbox}
    project={bench.project}
    turn={packet.turn.id}
    {editor}
    {name}
    detail={(value) =>
      'tags' in value || 'dropped' in value ? '' : 'mark' in value ? (value.source === 'hand' ? '' : value.source) : surface.short(value)}
  />
  {#if packet.turn.note !== '' && opened.mode === 'label'}<p class="note soft">{packet.turn.note}</p>{/if}
  {#if packet.decisions.length > 0 || packet.pins.length > 0}
    <section class="came" aria-label="what was said">
      {#each packet.decisions as d, i (i)}<p>
          <strong>{d.decision === 'return' ? 'returned' : 'accepted'}</strong> by {d.by}{d.reason ? `: ${d.reason}` : ''}
        </p>{/each}
      {#each packet.pins as pin, i (pin.id)}
        <p class="pin">
          <span class="num">{i + 1}</span><button
            class="link"
            onclick={() => {
              if (pin.mark) hand.select(pin.mark);
              surface.show({ x: pin.x, y: pin.y, offset: pin.offset, mark: pin.mark, place: pin.place });
            }}>{pin.text}</button
          >{#if pin.mine && opened.mode === 'review' && pin.turn_id === packet.turn.id}<button
              aria-label="remove pin {i + 1}"
              onclick={() => talk.unpin(pin)}><X size={13} /></button
            >{/if}
        </p>
      {/each}
    </section>
  {/if}
  {#if since}
    <section class="came" aria-label="since it was returned">
      <p>
        since it was returned:
        {#if since.come.length + since.changed.length + since.gone.length === 0}nothing has changed{:else}
          <span class="num">{since.changed.length}</span> changed, <span class="num">{since.come.length}</span> new,
          <span class="num">{since.gone.length}</span> gone{/if}
      </p>
      {#each [...since.changed.map((c) => ['changed', c.after, c.places] as const), ...since.come.map((m) => ['new', m, []] as const), ...since.gone.map((m) => ['gone', m, []] as const)].slice(0, 40) as [word, mark, places] (`${word}${mark.id}`)}
        <button class="link" onclick={() => show(mark, places)}
          ><span class="soft">{word}</span>
          {bench.words.nameOf(mark.class)}{#if places.length > 0}<span class="soft"
              >, {places.length === 1 ? 'a key' : `${places.length} keys`}</span
            >{/if}</button
        >
      {/each}
    </section>
  {:else if earlier.error !== ''}
    <p class="note soft">
      what changed since the return could not be loaded: {earlier.error}
      <button class="act" onclick={() => earlier.load()}>try again</button>
    </p>
  {/if}
  <Write {bench} {opened} {left} />
  {#if packet.turn.parked_because !== ''}<p class="note soft">parked: {packet.turn.parked_because}</p>{/if}
  {#if packet.questions.length > 0}
    <section class="came" aria-label="questions">
      {#each packet.questions as q (q.id)}
        <p>
          <strong>{q.by.split(' ')[0]}:</strong>
          {q.text}
          {#if q.answer !== ''}<br /><strong>{q.answered_by?.split(' ')[0]}:</strong> {q.answer}{:else}<span class="soft"
              >(no answer yet)</span
            >{/if}
        </p>
      {/each}
    </section>
  {/if}
  <Facts {opened} />
  {#if surface.Note}<surface.Note {surface} />{/if}
  {#if talk.story}
    <section class="came" aria-label="history of the mark">
      {#each talk.story as h, i (i)}<p>
          <span class="num soft">{new Date(h.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}</span>
          {h.action} by {h.by}
        </p>{/each}
      <button class="act" onclick={() => (talk.story = null)}>Close</button>
    </section>
  {/if}
  {#if opened.mode === 'label'}
    <div class="todo" role="status" aria-label="still to do">
      {#if todo.length === 0}<span class="soft">{editor.marks.size === 0 ? 'nothing is marked yet' : 'nothing left to do here'}</span>
      {:else}<span class="soft">to do</span>{#each todo as t, i (i)}<button onclick={t.lead}
            ><span class="num">{t.count}</span> {t.word}</button
          >{/each}{/if}
    </div>
  {/if}
  <div class="ledgerplace"><Ledger {bench} {opened} {left} /></div>
</div>

<style>
  .side {
    display: flex;
    flex-direction: column;
    min-height: 0;
    background: var(--panel);
    border-left: 1px solid var(--line);
  }
  .todo {
    display: flex;
    flex-wrap: wrap;
    gap: 3px 10px;
    padding: 5px 12px;
    border-bottom: 1px solid var(--line);
    font-size: 12.5px;
    flex: none;
  }
  .todo button {
    color: var(--accent-text);
    cursor: pointer;
    text-decoration: underline;
    text-decoration-color: color-mix(in srgb, var(--accent-text) 45%, transparent);
    text-underline-offset: 2px;
  }
  .ledgerplace {
    flex: 1;
    min-height: 120px;
  }
  .say {
    margin: 6px 8px 0;
    padding: 7px 26px 7px 10px;
    border-left: 3px solid var(--accent);
    background: color-mix(in srgb, var(--accent) 12%, var(--panel));
    border-radius: 4px;
    font-size: 13px;
    overflow-wrap: anywhere;
    position: relative;
  }
  .say > button {
    position: absolute;
    top: 5px;
    right: 5px;
    cursor: pointer;
  }
  .note {
    padding: 8px 12px 0;
    font-size: 13px;
  }
  .came {
    padding: 8px 12px 6px;
    border-bottom: 1px solid var(--line);
    font-size: 13px;
    max-height: 34%;
    overflow: auto;
    flex: none;
  }
  .pin {
    display: flex;
    gap: 7px;
    align-items: baseline;
  }
  .pin .num {
    color: var(--accent-text);
    font-weight: 600;
  }
  .link {
    text-align: left;
    cursor: pointer;
    flex: 1;
    display: block;
  }
</style>
