<script lang="ts">
  /** What the labeller will see of a codebook: the class caps of the deck, and the questions of the class in hand. */
  import { asked, noValues, say, type Answer, type Document } from '$lib/words/codebook';
  import Marker from '$lib/ui/Marker.svelte';

  let { document }: { document: Document } = $props();
  let chosen = $state('');
  let answers = $state<Record<string, Answer>>({});
  const key = $derived(document.classes.some((c) => c.key === chosen) ? chosen : (document.classes[0]?.key ?? ''));
  const current = $derived(document.classes.find((c) => c.key === key));
  const questions = $derived(asked(document, key, answers));
  const along = $derived((document.attributes ?? []).filter((a) => a.scope === 'frame'));
  const stretches = $derived((document.tags ?? []).filter((t) => t.scope === 'stretch'));
  const ofPages = $derived((document.attributes ?? []).filter((a) => a.scope === 'page'));
  const pageTags = $derived((document.tags ?? []).filter((t) => t.scope === 'page'));
</script>

<section class="view" data-theme="dusk" aria-label="what the labeller will see">
  <div class="soft head">what the labeller will see</div>
  <div class="caps">
    {#each document.classes.slice(0, 10) as c, i (i)}
      <button
        class="cap"
        aria-pressed={c.key === key}
        onclick={() => {
          chosen = c.key;
          answers = {};
        }}
      >
        <span class="num">{c.shortcut ?? '·'}</span><Marker marker={c.marker ?? 'circle'} color={c.color ?? '#888'} size={11} /><span
          class="word">{c.name}</span
        >
      </button>
    {/each}
  </div>
  {#if document.classes.length > 10}<p class="soft">and {document.classes.length - 10} more on the class board</p>{/if}
  {#if current?.description}<p class="mt-2">{current.description}</p>{/if}
  {#each questions as a, i (i)}
    <div class="q">
      <div>
        <strong>{a.name}</strong>{#if a.required}<span class="soft">&nbsp;required</span>{/if}{#if a.varies}<span class="soft"
            >&nbsp;from frame to frame</span
          >{/if}{#if answers[a.key]}<span class="answer">{say(a, answers[a.key])}</span>{:else if a.default !== undefined}<span class="soft"
            >&nbsp;shown: {String(a.default)}</span
          >{/if}
      </div>
      <div class="options">
        {#each a.options ?? [] as o, i (i)}<button
            class="cap"
            onclick={() => (answers[a.key] = { value: a.type === 'many' ? [o.key] : o.key })}>{o.name}</button
          >{/each}
        {#if a.type === 'yesno'}<button class="cap" onclick={() => (answers[a.key] = { value: true })}>yes</button><button
            class="cap"
            onclick={() => (answers[a.key] = { value: false })}>no</button
          >{/if}
        {#if a.type === 'number'}<input
            type="range"
            aria-label={a.name}
            min={a.min ?? 0}
            max={a.max ?? 100}
            step={a.step ?? 1}
            oninput={(e) => (answers[a.key] = { value: e.currentTarget.valueAsNumber })}
          />{/if}
        {#each a.no_value ?? [] as n (n)}<button class="cap none" onclick={() => (answers[a.key] = { no_value: n })}>{noValues[n]}</button
          >{/each}
      </div>
    </div>
  {/each}
  {#if ofPages.length > 0 || pageTags.length > 0}
    <div class="q">
      <div class="soft">of each page of a document</div>
      {#each ofPages as a, i (i)}<div>
          <strong>{a.name}</strong>{#if a.required}<span class="soft">&nbsp;required on every page</span>{/if}
        </div>{/each}
      {#if pageTags.length > 0}<div>{pageTags.map((t) => t.name).join(', ')}</div>{/if}
    </div>
  {/if}
  {#if along.length > 0 || stretches.length > 0}
    <div class="q">
      <div class="soft">along a clip</div>
      {#each along as a, i (i)}<div>
          <strong>{a.name}</strong><span class="soft">&nbsp;switches{a.required ? ', required all along' : ''}</span>
        </div>{/each}
      {#if stretches.length > 0}<div>{stretches.map((t) => t.name).join(', ')}<span class="soft">&nbsp;from here to there</span></div>{/if}
    </div>
  {/if}
</section>

<style>
  .view {
    background: var(--ground);
    color: var(--ink);
    border-radius: 4px;
    padding: 12px;
  }
  .head {
    font-size: 12.5px;
    margin-bottom: 8px;
  }
  .caps,
  .options {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
  }
  .cap {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    border: 1px solid var(--edge);
    border-radius: 4px;
    background: var(--panel);
    padding: 2px 8px;
    font-size: 13px;
    cursor: pointer;
    max-width: 140px;
  }
  .cap[aria-pressed='true'] {
    border-color: var(--primary);
    box-shadow: inset 0 -2px 0 var(--primary);
  }
  .cap.none {
    border-style: dashed;
  }
  .word {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .q {
    margin-top: 10px;
    padding-top: 8px;
    border-top: 1px solid var(--line);
  }
  .options {
    margin-top: 4px;
  }
  .answer {
    margin-left: 8px;
    color: var(--primary);
  }
</style>
