<script lang="ts">
  /**
   * Skeletons drawn over a picture of the project: a press places a node and joins it to the one before, a drag moves one. What is done
   * can be taken back; files are our JSON or a plain SVG.
   */
  import { api, ask, type Schemas } from '$lib/api/client';
  import ErrorNote from '$lib/ui/ErrorNote.svelte';
  import { Download, Plus, Redo2, Undo2, Upload, X } from '@lucide/svelte';
  import { keyOf, setOrDrop } from './edit';
  import { fromSvg, joined, movedNode, numbered, placed, renamed, toSvg, twinned, withoutNode, type Skeleton } from './skeleton';

  let { doc, project }: { doc: Schemas['CodebookDocument']; project: number } = $props();
  let at = $state(0);
  let taken = $state<string | null>(null);
  let mode = $state<'place' | 'join' | 'twin'>('place');
  let chain = $state(true);
  let undo = $state.raw<Skeleton[]>([]);
  let redo = $state.raw<Skeleton[]>([]);
  let note = $state('');
  let error = $state('');
  let word = $state('Point');
  let guide = $state<string | null>(null);
  let guides = $state.raw<{ id: number; name: string; picture: { screen: string } }[]>([]);
  let board: SVGSVGElement | undefined = $state();
  let dragging: { key: string; before: Skeleton; moved: boolean } | null = null;

  const skeletons = $derived(doc.skeletons ?? []);
  const skeleton = $derived(skeletons[Math.min(at, skeletons.length - 1)]);
  const node = $derived(skeleton?.nodes.find((n) => n.key === taken));
  const nodeAt = $derived(new Map(skeleton?.nodes.map((n) => [n.key, n])));

  $effect(() => {
    ask(api.GET('/projects/{project}/items', { params: { path: { project }, query: {} } })).then(
      (found) => (guides = found.data.slice(0, 40)),
      (e) => (error = (e as Error).message)
    );
  });

  function change(next: Skeleton, keep = true) {
    if (!skeleton || !doc.skeletons) return;
    if (keep) {
      undo = [...undo, $state.snapshot(skeleton) as Skeleton];
      redo = [];
    }
    // a key that changed is followed by the classes that use the skeleton
    doc.skeletons[skeletons.indexOf(skeleton)] = next;
    note = '';
  }
  function step(from: Skeleton[], back: boolean) {
    const last = from[from.length - 1];
    if (!last || !skeleton) return;
    const now = $state.snapshot(skeleton) as Skeleton;
    if (back) [undo, redo] = [undo.slice(0, -1), [...redo, now]];
    else [undo, redo] = [[...undo, now], redo.slice(0, -1)];
    change(last, false);
    if (!last.nodes.some((n) => n.key === taken)) taken = null;
  }
  function begin(made?: Skeleton) {
    doc.skeletons ??= [];
    const key = keyOf(
      'skeleton',
      doc.skeletons.map((k) => k.key)
    );
    doc.skeletons.push(
      made ?? {
        key,
        name: 'New skeleton',
        nodes: [],
        edges: []
      }
    );
    open(doc.skeletons.length - 1);
  }
  /** Its name; a key in files that was made from a name goes on following it, with the classes that are placed by it. */
  function call(name: string) {
    if (!skeleton) return;
    const old = skeleton.key;
    const others = skeletons.filter((k) => k !== skeleton).map((k) => k.key);
    const auto = /^skeleton(_\d+)?$/.test(old) || old === keyOf(skeleton.name, others);
    const key = auto ? keyOf(name, others) : old;
    change({ ...($state.snapshot(skeleton) as Skeleton), name, key });
    for (const c of doc.classes) if (c.skeleton === old) c.skeleton = key;
  }
  function open(i: number) {
    at = i;
    taken = null;
    undo = redo = [];
  }
  function drop() {
    if (!skeleton) return;
    const key = skeleton.key;
    setOrDrop(doc, 'skeletons', skeletons.length > 1 ? skeletons.filter((k) => k !== skeleton) : undefined);
    for (const c of doc.classes) if (c.skeleton === key) delete c.skeleton;
    open(0);
  }
  function place(e: PointerEvent): { x: number; y: number } {
    const r = board!.getBoundingClientRect();
    return { x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height };
  }
  function press(e: PointerEvent, key: string | null) {
    if (!skeleton || e.button !== 0) return;
    e.stopPropagation();
    if (key === null) {
      if (mode !== 'place' || skeleton.nodes.length >= 500) {
        taken = null;
        return;
      }
      const p = place(e);
      change(placed($state.snapshot(skeleton) as Skeleton, p.x, p.y, chain ? taken : null));
      taken = skeleton.nodes[skeleton.nodes.length - 1]?.key ?? null;
      return;
    }
    if (taken !== null && key !== taken && mode === 'join') {
      change(joined($state.snapshot(skeleton) as Skeleton, taken, key));
      taken = chain ? key : taken;
      return;
    }
    if (taken !== null && key !== taken && mode === 'twin') {
      change(twinned($state.snapshot(skeleton) as Skeleton, taken, key));
      mode = 'place';
      return;
    }
    taken = key;
    dragging = { key, before: $state.snapshot(skeleton) as Skeleton, moved: false };
    board!.setPointerCapture(e.pointerId);
  }
  function drag(e: PointerEvent) {
    if (!dragging || !skeleton) return;
    const p = place(e);
    const from = dragging.before.nodes.find((n) => n.key === dragging!.key)!;
    if (!dragging.moved && Math.hypot(p.x - from.x, p.y - from.y) < 0.008) return;
    dragging.moved = true;
    change(movedNode(dragging.before, dragging.key, p.x, p.y), false);
  }
  function drop2() {
    if (dragging?.moved) {
      undo = [...undo, dragging.before];
      redo = [];
    }
    dragging = null;
  }
  function rename(name: string) {
    if (!skeleton || taken === null) return;
    const i = skeleton.nodes.findIndex((n) => n.key === taken);
    change(renamed($state.snapshot(skeleton) as Skeleton, taken, name));
    taken = skeleton.nodes[i]?.key ?? null;
  }
  function keys(e: KeyboardEvent) {
    if (!skeleton || e.target instanceof HTMLInputElement) return;
    const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const arrow = arrows[e.code];
    if ((e.ctrlKey || e.metaKey) && e.code === 'KeyZ') step(e.shiftKey ? redo : undo, !e.shiftKey);
    else if (e.code === 'Delete' && taken !== null && skeleton.nodes.length > 1) {
      change(withoutNode($state.snapshot(skeleton) as Skeleton, taken));
      taken = null;
    } else if (arrow && node)
      change(movedNode($state.snapshot(skeleton) as Skeleton, node.key, node.x + arrow[0] * 0.005, node.y + arrow[1] * 0.005));
    else if (e.code === 'Escape') taken = null;
    else return;
    e.preventDefault();
  }
  function save(kind: 'json' | 'svg') {
    if (!skeleton) return;
    const text = kind === 'json' ? JSON.stringify($state.snapshot(skeleton), null, 2) : toSvg($state.snapshot(skeleton) as Skeleton);
    const a = document.createElement('a');
    a.href = URL.createObjectURL(new Blob([text], { type: kind === 'json' ? 'application/json' : 'image/svg+xml' }));
    a.download = `${skeleton.key}.${kind}`;
    a.click();
    setTimeout(() => URL.revokeObjectURL(a.href), 1000);
  }
  async function load(input: HTMLInputElement) {
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    error = note = '';
    try {
      const text = await file.text();
      const names = skeletons.map((k) => k.key);
      if (/\.svg$/i.test(file.name)) {
        const read = fromSvg(text, names);
        begin(read.skeleton);
        note = [`${read.skeleton.nodes.length} nodes and ${read.skeleton.edges.length} bones read`, ...read.notes].join('; ');
      } else {
        const read = JSON.parse(text) as Skeleton;
        if (!Array.isArray(read.nodes) || !Array.isArray(read.edges)) throw new Error('the file is no skeleton: it needs nodes and edges');
        begin({ ...read, key: keyOf(String(read.key ?? 'skeleton'), names) });
        note = `${read.nodes.length} nodes read; what is wrong with it, if anything, is said above`;
      }
    } catch (e) {
      error = `${file.name}: ${(e as Error).message}`;
    }
  }
</script>

<ErrorNote message={error} />
<div class="bar">
  {#each skeletons as k, i (i)}<button class="act" aria-pressed={k === skeleton} onclick={() => open(i)}>{k.name}</button>{/each}
  <button class="act" onclick={() => begin()}><Plus size={14} />New skeleton</button>
  <label class="act file"
    ><Upload size={14} />Load a file<input
      class="unseen"
      type="file"
      accept=".json,.svg"
      aria-label="load a skeleton"
      onchange={(e) => load(e.currentTarget)}
    /></label
  >
</div>
{#if skeleton}
  <div class="bar">
    <label class="name">name <input class="field" value={skeleton.name} onchange={(e) => call(e.currentTarget.value)} /></label>
    {#each [['place', 'place and move'], ['join', 'join'], ['twin', 'twin']] as const as [m, what] (m)}<button
        class="act"
        aria-pressed={mode === m}
        onclick={() => (mode = m)}>{what}</button
      >{/each}
    <label class="inline"><input type="checkbox" bind:checked={chain} /> each to the one before</label>
    <button class="act" disabled={undo.length === 0} aria-label="undo" onclick={() => step(undo, true)}><Undo2 size={14} /></button>
    <button class="act" disabled={redo.length === 0} aria-label="redo" onclick={() => step(redo, false)}><Redo2 size={14} /></button>
  </div>
  <div class="beside">
    <div class="board" style:background-image={guide ? `url("${guide}")` : 'none'}>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
      <svg
        bind:this={board}
        viewBox="0 0 1000 1000"
        role="application"
        aria-label="skeleton {skeleton.name}, {skeleton.nodes.length} nodes"
        tabindex="0"
        onpointerdown={(e) => press(e, null)}
        onpointermove={drag}
        onpointerup={drop2}
        onkeydown={keys}
      >
        {#each skeleton.edges as edge, n (n)}
          {@const [a, b] = [nodeAt.get(edge[0]!), nodeAt.get(edge[1]!)]}
          {#if a && b}<line class="casing" x1={a.x * 1000} y1={a.y * 1000} x2={b.x * 1000} y2={b.y * 1000} /><line
              x1={a.x * 1000}
              y1={a.y * 1000}
              x2={b.x * 1000}
              y2={b.y * 1000}
            />{/if}
        {/each}
        {#each skeleton.nodes as n, i (i)}
          <g class:taken={n.key === taken} class:twin={node?.twin === n.key}>
            <circle
              cx={n.x * 1000}
              cy={n.y * 1000}
              r={skeleton.nodes.length > 80 ? 9 : 15}
              role="button"
              tabindex="-1"
              aria-label={n.name}
              aria-pressed={n.key === taken}
              onpointerdown={(e) => press(e, n.key)}
            />
            {#if skeleton.nodes.length <= 80}<text x={n.x * 1000} y={n.y * 1000 + 6}>{i + 1}</text>{/if}
          </g>
        {/each}
      </svg>
    </div>
    <div class="nodes">
      <ol aria-label="nodes">
        {#each skeleton.nodes as n, i (i)}<li>
            <button aria-pressed={n.key === taken} onclick={() => (taken = n.key)}><span class="num">{i + 1}</span>{n.name}</button>
          </li>{/each}
      </ol>
      {#if node}
        <div class="one">
          <label>name of the node <input class="field" value={node.name} onchange={(e) => rename(e.currentTarget.value)} /></label>
          <span class="num soft">{node.key}</span>
          {#if node.twin}<span>twin of {nodeAt.get(node.twin)?.name}</span><button
              class="act"
              onclick={() => change(twinned($state.snapshot(skeleton) as Skeleton, node.key, null))}>no twin</button
            >{/if}
          <button
            class="act"
            disabled={skeleton.nodes.length < 2}
            onclick={() => {
              change(withoutNode($state.snapshot(skeleton) as Skeleton, node.key));
              taken = null;
            }}><X size={14} />Remove node</button
          >
        </div>
      {/if}
    </div>
  </div>
  <p class="soft hint" role="status">
    {note ||
      (mode === 'place'
        ? `In files it is called ${skeleton.key}. Press to place a node, drag to move one, arrows nudge, Delete removes it.`
        : taken === null
          ? 'Press a node first, then the other.'
          : mode === 'join'
            ? 'Press the node to join with; once more parts them.'
            : 'Press its mirror image: a flip of the picture swaps the two.')}
  </p>
  <div class="bar">
    <label
      >guide <select class="field" aria-label="guide picture" onchange={(e) => (guide = e.currentTarget.value || null)}
        ><option value="">no picture</option>{#each guides as g (g.id)}<option value={g.picture.screen}>{g.name}</option>{/each}</select
      ></label
    >
    <label class="name">number all <input class="field" bind:value={word} /></label>
    <button class="act" onclick={() => change(numbered($state.snapshot(skeleton) as Skeleton, word.trim() || 'Point'))}>Number</button>
    <button class="act" onclick={() => save('json')}><Download size={14} />JSON</button>
    <button class="act" onclick={() => save('svg')}><Download size={14} />SVG</button>
    <button class="act" onclick={drop}><X size={14} />Remove skeleton</button>
  </div>
{:else}
  <section class="card">
    <h2>No skeletons yet</h2>
    <p class="mt-1">
      A skeleton is a set of named nodes and the bones between them, placed as a whole on every animal, joint by joint or point by point.
    </p>
  </section>
{/if}

<style>
  .bar {
    display: flex;
    flex-wrap: wrap;
    gap: 7px;
    align-items: center;
    margin-bottom: 8px;
  }
  .bar label {
    font-size: 12.5px;
    color: var(--soft);
    display: inline-flex;
    gap: 6px;
    align-items: center;
  }
  .bar .field {
    width: 130px;
    color: var(--ink);
  }
  .bar [aria-pressed='true'] {
    border-color: var(--primary);
    background: color-mix(in srgb, var(--primary) 16%, transparent);
  }
  .file {
    cursor: pointer;
  }
  .board {
    width: 100%;
    aspect-ratio: 1;
    background-color: var(--sunk);
    background-size: contain;
    background-position: center;
    background-repeat: no-repeat;
    border: 1px solid var(--edge);
    border-radius: 4px;
  }
  svg {
    width: 100%;
    height: 100%;
    touch-action: none;
    cursor: crosshair;
  }
  line {
    stroke: #1e6150;
    stroke-width: 5;
  }
  .casing {
    stroke: #fbf8f1;
    stroke-width: 12;
    stroke-opacity: 0.85;
  }
  .beside {
    display: grid;
    grid-template-columns: minmax(0, 440px) minmax(150px, 1fr);
    gap: 12px;
    align-items: start;
  }
  .nodes ol {
    max-height: 270px;
    overflow: auto;
    border: 1px solid var(--line);
    border-radius: 4px;
  }
  .nodes li button {
    display: flex;
    gap: 8px;
    width: 100%;
    text-align: left;
    padding: 2px 8px;
    cursor: pointer;
  }
  .nodes [aria-pressed='true'] {
    background: color-mix(in srgb, var(--primary) 16%, transparent);
  }
  .one {
    display: grid;
    gap: 6px;
    margin-top: 8px;
    font-size: 13px;
    justify-items: start;
  }
  .one label {
    color: var(--soft);
    font-size: 12.5px;
  }
  circle {
    fill: #1e6150;
    stroke: #fbf8f1;
    stroke-width: 3;
    cursor: move;
  }
  text {
    font: 600 17px 'IBM Plex Mono';
    text-anchor: middle;
    fill: #fbf8f1;
    pointer-events: none;
  }
  .taken circle {
    fill: #b8431b;
  }
  .twin circle {
    fill: #6d5a8f;
  }
  .hint {
    margin: 5px 0 8px;
  }
</style>
