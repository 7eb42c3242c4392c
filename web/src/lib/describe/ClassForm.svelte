<script lang="ts">
  /** One class of the codebook, in full. Edits the document in place. */
  import type { Schemas } from '$lib/api/client';
  import { shapes } from '$lib/words/codebook';
  import Marker from '$lib/ui/Marker.svelte';
  import { markers, palette, setOrDrop, toggle } from './edit';
  import './form.css';

  let { doc, c, rekeyed }: { doc: Schemas['CodebookDocument']; c: Schemas['CodebookClass']; rekeyed: (key: string) => void } = $props();
  const attributes = $derived(doc.attributes ?? []);
  const list = (key: string, entries: string[]) => setOrDrop(c, key, entries.length ? entries : undefined);
  function rule(key: string, value: unknown) {
    const rules = { ...(c.rules ?? {}) };
    setOrDrop(rules, key, value);
    setOrDrop(c, 'rules', Object.keys(rules).length ? rules : undefined);
  }
  function margin(key: 'max' | 'unit', value: number | string) {
    const now: Record<string, unknown> = { min: 0, unit: 'px', ...c.rules?.margin, [key]: value };
    rule('margin', Number.isNaN(now.max) || now.max === undefined ? undefined : now);
  }
</script>

<div class="describe-form">
  <label>name <input class="field" bind:value={c.name} /></label>
  <label
    >key in files <input
      class="field num"
      value={c.key}
      onchange={(e) => {
        const old = c.key;
        c.key = e.currentTarget.value;
        for (const other of doc.classes) if (other.part_of) other.part_of = other.part_of.map((k) => (k === old ? c.key : k));
        rekeyed(c.key);
      }}
    /></label
  >
  <label
    >colour <span class="swatches"
      >{#each palette as p (p)}<button
          aria-label="colour {p}"
          aria-pressed={c.color === p}
          style:background={p}
          onclick={() => (c.color = p)}
        ></button>{/each}<input type="color" aria-label="another colour" bind:value={c.color} /></span
    ></label
  >
  <label
    >marker <span class="swatches"
      >{#each markers as m (m)}<button aria-label="marker {m}" aria-pressed={c.marker === m} onclick={() => (c.marker = m)}
          ><Marker marker={m} color={c.color ?? '#666'} /></button
        >{/each}</span
    ></label
  >
  <label
    >digit key <select class="field" value={c.shortcut ?? ''} onchange={(e) => setOrDrop(c, 'shortcut', e.currentTarget.value)}
      ><option value="">none</option>{#each '1234567890'.split('') as k (k)}<option>{k}</option>{/each}</select
    ></label
  >
  <label
    >smallest side, px <input
      class="field num"
      type="number"
      min="1"
      value={c.rules?.min_size ?? ''}
      onchange={(e) => rule('min_size', e.currentTarget.valueAsNumber)}
    /></label
  >
  <label
    >air allowed round a box <span class="air"
      ><input
        class="field num"
        type="number"
        min="0"
        step="any"
        aria-label="most air"
        value={c.rules?.margin?.max ?? ''}
        onchange={(e) => margin('max', e.currentTarget.valueAsNumber)}
      />
      <select
        class="field"
        aria-label="unit of the air"
        value={c.rules?.margin?.unit ?? 'px'}
        onchange={(e) => margin('unit', e.currentTarget.value)}><option>px</option><option>%</option></select
      ></span
    ></label
  >
  <label
    >least share that shows, % <input
      class="field num"
      type="number"
      min="0"
      max="100"
      value={c.rules?.min_visible === undefined ? '' : Math.round(c.rules.min_visible * 100)}
      onchange={(e) => rule('min_visible', e.currentTarget.valueAsNumber / 100)}
    /></label
  >
  <label
    >place in the stack <input
      class="field num"
      type="number"
      value={c.stack ?? ''}
      onchange={(e) => setOrDrop(c, 'stack', e.currentTarget.valueAsNumber)}
    /></label
  >
  {#if c.shapes.some((s) => s === 'points' || s === 'polygon' || s === 'polyline')}<label
      >done after so many points <input
        class="field num"
        type="number"
        min="1"
        max="1000"
        value={c.points ?? ''}
        onchange={(e) => setOrDrop(c, 'points', e.currentTarget.valueAsNumber)}
      /></label
    >{/if}
  {#if c.points !== undefined && c.shapes.includes('points')}<label class="wide"
      >what its points are called, in order, with commas <input
        class="field"
        value={(c.point_names ?? []).join(', ')}
        onchange={(e) => {
          const names = e.currentTarget.value
            .split(',')
            .map((n) => n.trim())
            .filter(Boolean);
          setOrDrop(c, 'point_names', names.length > 0 ? names : undefined);
        }}
      /></label
    >{/if}
  {#if c.shapes.includes('skeleton')}
    <label
      >skeleton <select class="field" value={c.skeleton ?? ''} onchange={(e) => setOrDrop(c, 'skeleton', e.currentTarget.value)}
        ><option value="">none yet: make one under Skeletons</option>{#each doc.skeletons ?? [] as k, n (n)}<option value={k.key}
            >{k.name}</option
          >{/each}</select
      ></label
    >
    <label class="inline"
      ><input
        type="checkbox"
        checked={c.orientation === 'upright'}
        onchange={(e) => setOrDrop(c, 'orientation', e.currentTarget.checked ? 'upright' : undefined)}
      /> always upright: never turned or mirrored</label
    >
  {/if}
  <label
    >on a clip, where it can’t be seen <select
      class="field"
      value={c.out_of_sight ?? 'hidden'}
      onchange={(e) => setOrDrop(c, 'out_of_sight', e.currentTarget.value === 'absent' ? 'absent' : undefined)}
      ><option value="hidden">it is hidden: there, and where is guessed</option><option value="absent"
        >it is absent until it is seen again</option
      ></select
    ></label
  >
  {#if doc.classes.length > 1}
    <fieldset class="wide">
      <legend>may be a part of</legend>
      {#each doc.classes as other, n (n)}{#if other.key !== c.key}<label class="inline"
            ><input
              type="checkbox"
              checked={c.part_of?.includes(other.key) ?? false}
              onchange={() => list('part_of', toggle(c.part_of, other.key))}
            />
            {other.name}</label
          >{/if}{/each}
    </fieldset>
  {/if}
  <label class="wide"
    >description <textarea
      class="field"
      rows="2"
      value={c.description ?? ''}
      onchange={(e) => setOrDrop(c, 'description', e.currentTarget.value)}></textarea></label
  >
  <fieldset class="wide">
    <legend>drawn as</legend>
    {#each Object.entries(shapes) as [shape, word] (shape)}<label class="inline"
        ><input
          type="checkbox"
          checked={c.shapes.includes(shape as 'box')}
          onchange={() => (c.shapes = toggle(c.shapes, shape as 'box'))}
        />
        {word}</label
      >{/each}
  </fieldset>
  <fieldset class="wide">
    <legend>questions asked</legend>
    {#each attributes.filter((a) => a.scope === 'object') as a, n (n)}<label class="inline"
        ><input
          type="checkbox"
          checked={c.attributes?.includes(a.key) ?? false}
          onchange={() => setOrDrop(c, 'attributes', toggle(c.attributes, a.key))}
        />
        {a.name}</label
      >{:else}<span class="soft">none yet: add some under Questions</span>{/each}
  </fieldset>
  <label class="inline wide"
    ><input type="checkbox" checked={c.ignore ?? false} onchange={(e) => setOrDrop(c, 'ignore', e.currentTarget.checked)} /> regions of this class
    are left out of training and checks</label
  >
</div>

<style>
  .swatches {
    display: flex;
    flex-wrap: wrap;
    gap: 3px;
    padding-top: 3px;
  }
  .swatches button {
    width: 21px;
    height: 21px;
    border-radius: 3px;
    display: grid;
    place-items: center;
    cursor: pointer;
  }
  .swatches [aria-pressed='true'] {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .swatches input {
    width: 26px;
    height: 21px;
  }
  .air {
    display: grid;
    grid-template-columns: 1fr 64px;
    gap: 4px;
  }
</style>
