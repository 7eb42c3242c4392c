<script lang="ts">
  /** One question of the codebook, in full. Edits the document in place. */
  import type { Schemas } from '$lib/api/client';
  import { noValues, types } from '$lib/words/codebook';
  import { Plus, X } from '@lucide/svelte';
  import { keyOf, rekey, setOrDrop, setType, toggle } from './edit';
  import './form.css';

  let { doc, a, rekeyed }: { doc: Schemas['CodebookDocument']; a: Schemas['CodebookAttribute']; rekeyed: (key: string) => void } = $props();
  const attributes = $derived(doc.attributes ?? []);
  /** questions whose answers can open this one: of the same kind, with answers to choose from */
  const needed = $derived(attributes.filter((b) => b.key !== a.key && b.scope === a.scope && (b.options || b.type === 'yesno')));
  const firstOf = (key: string): string | boolean => {
    const other = attributes.find((b) => b.key === key);
    return other?.type === 'yesno' ? true : (other?.options?.[0]?.key ?? '');
  };
  /** nodes an answer may be seen at: of the skeletons of classes that ask this */
  const nodes = $derived(
    (doc.skeletons ?? [])
      .filter((k) => doc.classes.some((c) => c.skeleton === k.key && c.attributes?.includes(a.key)))
      .flatMap((k) => k.nodes.map((n) => [n.key, n.name ?? n.key] as const))
      .filter(([key], i, all) => all.findIndex(([other]) => other === key) === i)
  );
  function rename(key: string) {
    rekey(doc, a, key);
    rekeyed(key);
  }
  function setScope(scope: Schemas['CodebookAttribute']['scope']) {
    a.scope = scope;
    // what is asked of the picture is asked for no class
    if (scope !== 'object')
      for (const c of doc.classes)
        setOrDrop(c, 'attributes', c.attributes?.some((k) => k !== a.key) ? c.attributes.filter((k) => k !== a.key) : undefined);
    delete a.when;
    if (scope !== 'object') delete a.varies;
  }
</script>

<div class="describe-form">
  <label
    >question <input
      class="field"
      bind:value={a.name}
      onchange={() =>
        /^question(_\d+)?$/.test(a.key) &&
        rename(
          keyOf(
            a.name,
            attributes.filter((b) => b !== a).map((b) => b.key)
          )
        )}
    /></label
  >
  <label>key in files <input class="field num" value={a.key} onchange={(e) => rename(e.currentTarget.value)} /></label>
  <label
    >answer <select class="field" value={a.type} onchange={(e) => setType(a, e.currentTarget.value as 'one')}
      >{#each Object.entries(types) as [t, word] (t)}<option value={t}>{word}</option>{/each}</select
    ></label
  >
  <label
    >about <select class="field" value={a.scope} onchange={(e) => setScope(e.currentTarget.value as 'object')}
      ><option value="object">each object</option><option value="item">the picture, clip, document or text as a whole</option><option
        value="frame">frames of a clip: its answer switches</option
      ><option value="page">each page of a document</option></select
    ></label
  >
  <label class="inline"
    ><input type="checkbox" checked={a.required ?? false} onchange={(e) => setOrDrop(a, 'required', e.currentTarget.checked)} /> required</label
  >
  {#if a.scope === 'object'}<label class="inline"
      ><input type="checkbox" checked={a.varies ?? false} onchange={(e) => setOrDrop(a, 'varies', e.currentTarget.checked)} /> may change along
      a clip</label
    >{/if}
  {#if a.type === 'number'}
    {#each ['min', 'max', 'step'] as const as k (k)}<label
        >{k}
        <input
          class="field num"
          type="number"
          step="any"
          value={a[k] ?? ''}
          onchange={(e) => setOrDrop(a, k, e.currentTarget.valueAsNumber)}
        /></label
      >{/each}
    <label>unit <input class="field" value={a.unit ?? ''} onchange={(e) => setOrDrop(a, 'unit', e.currentTarget.value)} /></label>
  {/if}
  {#if a.type === 'text'}
    <label class="inline"
      ><input
        type="checkbox"
        checked={a.control === 'paragraphs'}
        onchange={(e) => setOrDrop(a, 'control', e.currentTarget.checked ? 'paragraphs' : undefined)}
      /> several paragraphs</label
    >
    {#if a.scope === 'object'}<label class="inline"
        ><input type="checkbox" checked={a.reads ?? false} onchange={(e) => setOrDrop(a, 'reads', e.currentTarget.checked)} /> what is written
        under the mark on a page</label
      >{/if}
    {#each [['min', 'fewest characters'], ['max', 'most characters']] as const as [k, words] (k)}<label
        >{words}
        <input
          class="field num"
          type="number"
          min="1"
          value={a[k] ?? ''}
          onchange={(e) => setOrDrop(a, k, e.currentTarget.valueAsNumber)}
        /></label
      >{/each}
  {/if}
  {#if a.options}
    <fieldset class="wide">
      <legend>choices</legend>
      {#each a.options as option, j (j)}
        <span class="option"
          ><input
            class="field"
            aria-label="choice {j + 1}"
            value={option.name}
            onchange={(e) => {
              const name = e.currentTarget.value;
              const auto = option.key === keyOf(option.name, []) || /^(new_choice|a)(_\d+)?$/.test(option.key);
              option.name = name;
              if (auto)
                option.key = keyOf(
                  name,
                  a.options!.filter((o) => o !== option).map((o) => o.key)
                );
            }}
          /><button class="act link" aria-label="remove choice {option.name}" onclick={() => a.options!.splice(j, 1)}
            ><X size={13} /></button
          ></span
        >
      {/each}
      <button
        class="act link"
        onclick={() =>
          a.options!.push({
            key: keyOf(
              'new choice',
              a.options!.map((o) => o.key)
            ),
            name: 'New choice'
          })}><Plus size={13} />choice</button
      >
    </fieldset>
  {/if}
  <fieldset class="wide">
    <legend>ways of having no value that count as an answer</legend>
    {#each Object.entries(noValues) as [value, word] (value)}<label class="inline"
        ><input
          type="checkbox"
          checked={a.no_value?.includes(value as 'none') ?? false}
          onchange={() => {
            const list = toggle(a.no_value, value as 'none');
            setOrDrop(a, 'no_value', list.length ? list : undefined);
          }}
        />
        {word}</label
      >{/each}
  </fieldset>
  {#if a.type === 'one' || a.type === 'yesno'}
    <label
      >shown first, but no answer until touched <select
        class="field"
        value={a.default === undefined ? '' : String(a.default)}
        onchange={(e) => {
          const v = e.currentTarget.value;
          if (v === '') delete a.default;
          else a.default = a.type === 'yesno' ? v === 'true' : v;
        }}
        ><option value="">nothing</option>{#if a.type === 'yesno'}<option value="true">yes</option><option value="false">no</option
          >{:else}{#each a.options ?? [] as o, n (n)}<option value={o.key}>{o.name}</option>{/each}{/if}</select
      ></label
    >
  {/if}
  {#if a.scope === 'object'}
    <label
      >in a sweep, look at <select
        class="field"
        value={a.look_at?.node !== undefined ? `node:${a.look_at.node}` : a.look_at ? 'part' : ''}
        onchange={(e) => {
          const v = e.currentTarget.value;
          if (v === '') delete a.look_at;
          else a.look_at = v === 'part' ? { x: 0, y: 0, width: 1, height: 0.5 } : { node: v.slice(5) };
        }}
        ><option value="">the whole object</option><option value="part">a part of its box</option>{#each nodes as [key, name], n (n)}<option
            value="node:{key}">{name}</option
          >{/each}</select
      ></label
    >
    {#if a.look_at && a.look_at.node === undefined}
      <fieldset class="wide">
        <legend>part of the box, in % of its width and height</legend>
        {#each [['x', 'from the left'], ['y', 'from the top'], ['width', 'wide'], ['height', 'high']] as const as [k, word] (k)}
          <label class="inline"
            >{word}
            <input
              class="field num share"
              type="number"
              min={k === 'width' || k === 'height' ? 1 : 0}
              max="100"
              value={Math.round((a.look_at[k] ?? 0) * 100)}
              onchange={(e) =>
                (a.look_at = { ...a.look_at, [k]: (e.currentTarget.valueAsNumber || (k === 'width' || k === 'height' ? 1 : 0)) / 100 })}
            /></label
          >
        {/each}
      </fieldset>
    {/if}
  {/if}
  {#each a.when ?? [] as condition, n (n)}
    {@const other = attributes.find((b) => b.key === condition.attribute)}
    <fieldset class="wide">
      <legend>{n === 0 ? 'asked only while' : 'and while'}</legend>
      <select
        class="field which"
        aria-label="question it depends on"
        value={condition.attribute}
        onchange={(e) => {
          condition.attribute = e.currentTarget.value;
          condition.any = [firstOf(e.currentTarget.value)];
        }}
        >{#each needed as b, n (n)}<option value={b.key}>{b.name}</option>{/each}</select
      >
      is
      {#each other?.type === 'yesno' ? [true, false] : (other?.options ?? []).map((o) => o.key) as v, k (k)}<label class="inline"
          ><input type="checkbox" checked={condition.any.includes(v)} onchange={() => (condition.any = toggle(condition.any, v))} />
          {typeof v === 'boolean' ? (v ? 'yes' : 'no') : other?.options?.find((o) => o.key === v)?.name}</label
        >{/each}
      <button
        class="act link"
        aria-label="remove condition {n + 1}"
        onclick={() => setOrDrop(a, 'when', a.when!.length > 1 ? a.when!.filter((_, m) => m !== n) : undefined)}><X size={13} /></button
      >
    </fieldset>
  {/each}
  {#if needed.length > 0}<button
      class="act link wide"
      onclick={() => (a.when = [...(a.when ?? []), { attribute: needed[0]!.key, any: [firstOf(needed[0]!.key)] }])}
      ><Plus size={13} />{a.when?.length ? 'a further condition' : 'ask only after certain answers'}</button
    >{/if}
  {#if a.scope === 'object'}
    <fieldset class="wide">
      <legend>asked for</legend>
      {#each doc.classes as c, n (n)}<label class="inline"
          ><input
            type="checkbox"
            checked={c.attributes?.includes(a.key) ?? false}
            onchange={() => setOrDrop(c, 'attributes', toggle(c.attributes, a.key))}
          />
          {c.name}</label
        >{/each}
    </fieldset>
  {/if}
</div>

<style>
  .option {
    display: inline-flex;
    width: 190px;
    align-items: center;
    margin: 0 6px 4px 0;
  }
  .which {
    width: 180px;
    display: inline-block;
  }
</style>
