<script lang="ts">
  /**
   * The answer to one question, by pointer or by writing. What is written is stored when the field is left; Enter stores it, leaves the field
   * and goes on.
   */
  import { focused } from '$lib/ui/focus';
  import { onDestroy } from 'svelte';
  import { noValues, type Answer, type Attribute } from './codebook';

  let {
    attribute: a,
    answer,
    proposal,
    give,
    left
  }: {
    attribute: Attribute;
    answer: Answer | undefined;
    /** a written answer that is offered: it stands in the field until it is taken or something else is written */
    proposal?: { text: string; how: string; doubtful: boolean } | undefined;
    /** takes an answer, or takes it away by null; `stay`: there may be more to say to the same question */
    give: (answer: Answer | null, stay: boolean) => void;
    /** the field was left: the keys are wanted elsewhere */
    left: () => void;
  } = $props();
  const value = $derived(answer && 'value' in answer ? answer.value : undefined);
  const has = (option: unknown) => (Array.isArray(value) ? value.includes(option as string) : value === option);
  const isLong = $derived(a.type === 'text' && a.control === 'paragraphs');
  /** characters that may be written, as the server counts them */
  const most = $derived(Math.min(a.type === 'text' && a.max ? a.max : Infinity, isLong ? 20000 : 4000));
  const isText = $derived(a.type === 'text' || a.type === 'date' || a.type === 'time' || a.type === 'datetime');

  function choose(key: string) {
    if (a.type === 'one') return give({ value: key }, false);
    const now = Array.isArray(value) ? value : [];
    const next = now.includes(key) ? now.filter((k) => k !== key) : [...now, key];
    give(next.length > 0 ? { value: next } : null, true);
  }
  const number = (field: HTMLInputElement): Answer | null => (Number.isNaN(field.valueAsNumber) ? null : { value: field.valueAsNumber });
  const written = (field: HTMLInputElement | HTMLTextAreaElement): Answer | null =>
    field.value.trim() === '' ? null : { value: field.value };
  const same = (next: Answer | null) => (next && 'value' in next ? next.value : undefined) === value;
  /** stores what the field holds, if that is something else */
  function store(next: Answer | null, stay: boolean) {
    if (!stay || !same(next)) give(next, stay);
  }
  function enter(e: KeyboardEvent, read: (field: HTMLInputElement) => Answer | null) {
    if (e.key !== 'Enter' || e.isComposing) return;
    // in several paragraphs Enter begins the next one
    if (isLong && !(e.ctrlKey || e.metaKey)) return;
    e.preventDefault();
    e.stopPropagation();
    const field = e.currentTarget as HTMLInputElement;
    const next = read(field);
    done = true;
    unsaved = null;
    clearTimeout(pause);
    field.blur();
    done = false;
    store(next, false);
    left();
  }
  /** ms without a key after which what is written is stored, so that a crash costs no more than that */
  const PAUSE = 1500;
  /** written and not stored yet */
  let unsaved: string | null = null;
  let pause: ReturnType<typeof setTimeout> | undefined;
  function typed(text: string) {
    length = [...text].length;
    unsaved = text;
    clearTimeout(pause);
    pause = setTimeout(flush, PAUSE);
  }
  function flush() {
    clearTimeout(pause);
    if (unsaved === null || done) return;
    const next = unsaved.trim() === '' ? null : { value: unsaved };
    unsaved = null;
    store(next, true);
  }
  // the field goes with its item: what was written in it is that item's
  onDestroy(flush);
  let field: HTMLInputElement | HTMLTextAreaElement | undefined = $state();
  /** something was written by hand: an offer that comes late does not take its place */
  let touched = false;
  $effect(() => {
    if (proposal && field && value === undefined && !touched && field.value === '') {
      field.value = proposal.text;
      field.select();
    }
  });
  let length = $derived(typeof value === 'string' ? [...value].length : 0);
  /** Enter has stored it already: leaving the field does not do so again */
  let done = false;
  function change(next: Answer | null) {
    if (!done) store(next, true);
  }
</script>

<div class="options" role="group" aria-label={a.name}>
  {#each a.options ?? [] as o (o.key)}
    <button type="button" aria-pressed={has(o.key)} title={o.description} onclick={() => choose(o.key)}>{o.name}</button>
  {/each}
  {#if a.type === 'yesno'}{#each [true, false] as v (v)}<button
        type="button"
        aria-pressed={has(v)}
        onclick={() => give({ value: v }, false)}>{v ? 'yes' : 'no'}</button
      >{/each}{/if}
  {#if a.type === 'number'}
    <input
      type="range"
      aria-label="{a.name} by slider"
      min={a.min ?? 0}
      max={a.max ?? 100}
      step={a.step ?? 1}
      value={typeof value === 'number' ? value : (a.default ?? a.min ?? 0)}
      onchange={(e) => change(number(e.currentTarget))}
      onkeydown={(e) => enter(e, number)}
    />
    <input
      class="field num"
      type="number"
      aria-label={a.name}
      min={a.min}
      max={a.max}
      step={a.step ?? 'any'}
      value={typeof value === 'number' ? value : ''}
      onchange={(e) => change(number(e.currentTarget))}
      onkeydown={(e) => enter(e, number)}
    />{a.unit ?? ''}
  {/if}
  {#if isText && isLong}
    <textarea
      class="field wide"
      data-answer
      data-keeps-enter
      rows="6"
      aria-label={a.name}
      value={value === undefined ? '' : String(value)}
      {@attach focused}
      bind:this={field}
      oninput={(e) => {
        touched = true;
        typed(e.currentTarget.value);
      }}
      onblur={flush}
      onkeydown={(e) => enter(e, written as (field: HTMLInputElement) => Answer | null)}></textarea>
    <span class="num soft count" class:over={length > most || (a.min !== undefined && length > 0 && length < a.min)}
      >{length} of {a.min ? `${a.min} to ` : ''}{most} characters · Ctrl Enter keeps it</span
    >
  {:else if isText}
    <input
      class="field wide"
      data-answer
      type={a.type === 'datetime' ? 'datetime-local' : a.type}
      aria-label={a.name}
      maxlength={most}
      bind:this={field}
      oninput={() => (touched = true)}
      value={value === undefined ? '' : String(value)}
      {@attach focused}
      onchange={(e) => change(written(e.currentTarget))}
      onkeydown={(e) => enter(e, written)}
    />
  {/if}
  {#if proposal && isText && value !== proposal.text}
    <span class="soft offer" class:over={proposal.doubtful} role="status"
      >{proposal.how}{#if value === undefined}: Enter takes it{:else}:
        <button type="button" onclick={() => give({ value: proposal.text }, true)}>{proposal.text}</button>{/if}</span
    >
  {/if}
  {#each a.no_value ?? [] as v (v)}<button
      type="button"
      class="none"
      aria-pressed={answer !== undefined && 'no_value' in answer && answer.no_value === v}
      onclick={() => give({ no_value: v }, false)}>{noValues[v]}</button
    >{/each}
  {#if answer}<button type="button" class="none" onclick={() => give(null, true)}>clear</button>{/if}
</div>

<style>
  .options {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding: 2px 0 6px;
    align-items: center;
  }
  button {
    border: 1px solid var(--edge);
    border-radius: 4px;
    padding: 1px 7px;
    cursor: pointer;
  }
  [aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 30%, transparent);
  }
  .none {
    border-style: dashed;
  }
  input[type='range'] {
    width: 110px;
  }
  .field {
    width: 70px;
    padding: 1px 5px;
  }
  .field.wide {
    width: 100%;
  }
  textarea.field {
    resize: vertical;
    line-height: 1.4;
  }
  .count {
    font-size: 11.5px;
    width: 100%;
  }
  .offer {
    font-size: 11.5px;
    width: 100%;
  }
  .over,
  .count.over {
    color: var(--accent-text);
  }
</style>
