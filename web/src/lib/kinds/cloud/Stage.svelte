<script lang="ts">
  /**
   * A cloud: the large view, turned in space or from above, and beside it the object in hand as a technical drawing: from above, below that from
   * its side, to the right of that from its front, at one scale, so that edges line up. One canvas lies under all of them.
   */
  import { onMount, untrack } from 'svelte';
  import Failed from '../flat/Failed.svelte';
  import type { Surface } from '../kind';
  import { corners, moved, resized, turned, world, type Place } from './cuboid';
  import Own from './Own.svelte';
  import Picture from './Picture.svelte';
  import type { Pane, SpaceView } from './space-view';
  import { isCuboid, type CloudSurface } from './surface.svelte';
  import { byOf, gripAt, scaleOf, views, type Grip, type Px, type View } from './views';
  import type { Cuboid } from '$lib/words/mark';

  let { surface, name }: { surface: Surface; name: string } = $props();
  const own = $derived(surface as CloudSurface);
  const { hand, words, chosen } = $derived(own.ports);
  let canvas: HTMLCanvasElement;
  let sheet: HTMLElement;
  let pane: HTMLElement;
  let view = $state.raw<SpaceView | null>(null);
  let failed = $state('');
  let width = $state(0);
  let height = $state(0);
  const hosts: Record<View, HTMLElement | null> = $state({ above: null, side: null, front: null });
  let panes = $state.raw<({ main: Pane } & Record<View, Pane>) | null>(null);
  /** counts up when the camera moves */
  let looked = $state(0);
  let closed = false;
  // (the camera is also moved by what is shown: that is no reason to show it again)
  const looking = () => untrack(() => looked++);

  onMount(() => {
    // loaded with the first cloud
    void import('./space-view').then(
      ({ SpaceView }) => {
        if (closed) return;
        try {
          view = new SpaceView(canvas, pane);
          view.moved = looking;
          own.seen = {
            show: (cuboid) => {
              if (cuboid) view?.show(cuboid);
              else view?.whole();
            }
          };
        } catch {
          failed =
            'this browser shows no clouds: WebGL 2 is off. Turn on hardware acceleration, or use another browser. Nothing was changed, and what was drawn is kept.';
        }
      },
      (e: Error) => (failed = `what shows clouds could not be loaded: ${e.message}`)
    );
    return () => {
      closed = true;
      own.seen = null;
      view?.close();
    };
  });
  // where the views lie on the canvas
  $effect(() => {
    // (with the picture large the sheet is parted otherwise)
    void [width, height, own.view === 'picture'];
    if (!view || width === 0 || !hosts.above || !hosts.side || !hosts.front) return;
    const r = sheet.getBoundingClientRect();
    const of = (e: HTMLElement): Pane => {
      const b = e.getBoundingClientRect();
      return { x: b.left - r.left, y: b.top - r.top, width: b.width, height: b.height };
    };
    const now = { main: of(pane), above: of(hosts.above), side: of(hosts.side), front: of(hosts.front) };
    panes = now;
    view.resize(width, height, now);
    looking();
  });
  $effect(() => {
    void own.cloud.version;
    const { frame, index } = own.cloud;
    if (view && frame && index) {
      view.put(frame, index, String(own.item.id));
      looking();
      const { by, size, ground, low, high } = own.looks;
      view.looks({ by: own.looks.ways(index).includes(by) ? by : 'height', size, ground, low, high });
    }
  });
  $effect(() => {
    view?.cuboids(own.drawn);
  });
  $effect(() => {
    if (own.view !== 'picture') view?.look(own.view);
    looking();
  });
  $effect(() => view?.drawing(own.mode === 'draw'));
  $effect(() => {
    const { dragged } = own;
    view?.rect(dragged?.from ?? null, dragged?.to ?? null, words.light(chosen.active));
  });

  // --- the object in hand: what its views have in their middle stays while it is moved
  let on = $state.raw<Cuboid | null>(null);
  const scale = $derived(on && panes ? scaleOf(on, panes) : 1);
  $effect(() => {
    const { cuboid } = own;
    if (!own.isHolding || cuboid === null) on = cuboid;
  });
  $effect(() => {
    // (as wide as it was, a view may have become less high)
    void panes;
    view?.own(on, scale);
  });

  // --- presses on the large view
  const at = (e: PointerEvent): Px => {
    const r = pane.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  /** Where a ray meets the ground, or the height a drag began at. */
  function ground(p: Px, z = own.cloud.frame?.floor() ?? 0): Place | null {
    if (!view) return null;
    const { from, towards } = view.ray(p.x, p.y);
    if (Math.abs(towards[2]) < 1e-6) return null;
    const t = (z - from[2]) / towards[2];
    if (t <= 0) return null;
    const place: Place = [from[0] + t * towards[0], from[1] + t * towards[1], z];
    const { least, most } = own.item.cloud!;
    // nothing lies beyond the horizon
    return [0, 1].every((axis) => place[axis]! > least[axis]! - 200 && place[axis]! < most[axis]! + 200) ? place : null;
  }
  let down: { p: Px; pointer: number; what: 'draw' | 'move' | 'press'; from: Place | null; cuboid: Cuboid | null } | null = null;
  function press(e: PointerEvent) {
    if (e.button !== 0 || !view || !own.cloud.ready) return;
    const p = at(e);
    const from = ground(p);
    const { from: eye, towards } = view.ray(p.x, p.y);
    if (own.mode === 'draw') {
      if (!from || own.fitting) return;
      down = { p, pointer: e.pointerId, what: 'draw', from, cuboid: null };
      own.dragged = { from, to: from };
    } else {
      const hit = own.hit(eye, towards);
      const mine =
        hit !== null && own.cuboid !== null && hand.one?.id === hit.id && own.view === 'above' && own.mode === 'pick' && own.editable;
      down = {
        p,
        pointer: e.pointerId,
        what: mine ? 'move' : 'press',
        from: mine ? ground(p, own.cuboid!.center[2]) : from,
        cuboid: own.cuboid
      };
      // the view is turned by all else
      if (!mine) return;
    }
    e.stopPropagation();
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
  }
  function move(e: PointerEvent) {
    if (!view) return;
    const p = at(e);
    if (!down) {
      if (own.mode !== 'draw' && e.buttons === 0) {
        const { from, towards } = view.ray(p.x, p.y);
        hand.hover(own.hit(from, towards)?.id ?? null);
      }
      return;
    }
    if (down.what === 'draw' && down.from) {
      const to = ground(p, down.from[2]);
      if (to) own.dragged = { from: down.from, to };
    } else if (down.what === 'move' && down.from && down.cuboid) {
      const to = ground(p, down.cuboid.center[2]);
      if (to && (own.isHolding || Math.hypot(p.x - down.p.x, p.y - down.p.y) > 3))
        own.hold(moved(down.cuboid, [to[0] - down.from[0], to[1] - down.from[1], 0]));
    }
  }
  function up(e: PointerEvent) {
    const began = down;
    down = null;
    if (!began || began.pointer !== e.pointerId || !view) return;
    if (began.what === 'draw') {
      const { dragged } = own;
      // (left by Esc meanwhile)
      if (dragged) void own.draw(dragged.from, dragged.to);
      return;
    }
    if (own.isHolding) return own.commit();
    const p = at(e);
    if (Math.hypot(p.x - began.p.x, p.y - began.p.y) > 4) return;
    const { from, towards } = view.ray(p.x, p.y);
    own.press(own.hit(from, towards), ground(p), e.shiftKey);
  }
  function cancel() {
    if (down?.what === 'draw') own.dragged = null;
    else own.drop();
    down = null;
  }

  // --- presses on the views of the object in hand
  let grip: { view: View; grip: NonNullable<Grip>; from: Px; cuboid: Cuboid; on: Cuboid } | null = null;
  let cursor = $state<Record<View, string>>({ above: 'default', side: 'default', front: 'default' });
  const inView = (e: PointerEvent, v: View): Px => {
    const r = hosts[v]!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  function take(v: View, e: PointerEvent) {
    if (e.button !== 0 || !on || !own.cuboid || !panes || !own.editable) return;
    own.commit();
    const p = inView(e, v);
    const found = gripAt(v, on, own.cuboid, scale, panes[v], p);
    if (!found) return;
    e.preventDefault();
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    grip = { view: v, grip: found, from: p, cuboid: own.cuboid, on };
  }
  function pull(v: View, e: PointerEvent) {
    if (!panes) return;
    const p = inView(e, v);
    if (!grip) {
      const found = on && own.cuboid && own.editable ? gripAt(v, on, own.cuboid, scale, panes[v], p) : null;
      cursor[v] = found === null ? 'default' : found.what === 'move' ? 'move' : found.what === 'turn' ? 'grab' : sizing(v, found.faces);
      return;
    }
    if (grip.view !== v) return;
    const { cuboid, from } = grip;
    if (grip.grip.what === 'turn') {
      const middle = { x: panes.above.width / 2, y: panes.above.height / 2 };
      const angle = (q: Px) => (Math.atan2(-(q.y - middle.y), q.x - middle.x) * 180) / Math.PI;
      own.hold(turned(cuboid, angle(p) - angle(from)));
      return;
    }
    const by = byOf(v, grip.on, cuboid, scale, from, p);
    if (grip.grip.what === 'move') {
      const [x, y, z] = world({ ...cuboid, center: [0, 0, 0] }, by);
      own.hold(moved(cuboid, [x, y, z]));
    } else own.hold(resized(cuboid, grip.grip.faces, by));
  }
  function let_go() {
    if (grip) own.commit();
    grip = null;
  }
  const sizing = (v: View, faces: readonly number[]): string => {
    const [a, b] = v === 'above' ? [faces[0], faces[1]] : v === 'side' ? [faces[0], faces[2]] : [faces[1], faces[2]];
    return a !== 0 && b !== 0 ? (a === b ? 'nesw-resize' : 'nwse-resize') : a !== 0 ? 'ew-resize' : 'ns-resize';
  };

  /** Words over the cuboids that are looked at: which it is. */
  const tags = $derived.by(() => {
    void [looked, own.view, width, height];
    if (!view) return [];
    return own.drawn.flatMap((d) => {
      if (!d.held && !d.over) return [];
      const mark = own.ports.editor.marks.get(d.id);
      if (!isCuboid(mark)) return [];
      const tops = corners(d.cuboid)
        .slice(4)
        .map((c) => view!.project(c));
      if (tops.some((t) => t === null)) return [];
      const top = tops.reduce((a, b) => (b!.y < a!.y ? b : a))!;
      return [{ id: d.id, x: top.x, y: top.y, word: own.ports.acts.label(mark), color: d.color }];
    });
  });
  const pins = $derived.by(() => {
    void [looked, own.view, width, height];
    if (!view) return [];
    return own.ports.pins().flatMap((pin, n) => {
      if (pin.place !== own.place) return [];
      const mark = pin.mark === null ? null : own.ports.editor.marks.get(pin.mark);
      const place: Place | null =
        isCuboid(mark) && !mark.away
          ? [mark.geometry.center[0]!, mark.geometry.center[1]!, mark.geometry.center[2]! + mark.geometry.size[2]! / 2]
          : pin.x !== null && pin.y !== null
            ? [pin.x, pin.y, own.cloud.frame?.floor() ?? 0]
            : null;
      const p = place && view!.project(place);
      return p ? [{ id: pin.id, n: n + 1, text: pin.text, ...p }] : [];
    });
  });
  /** From above: a length that reads well, as one sees it. */
  const bar = $derived.by(() => {
    void [looked, width, height];
    if (!view || own.view !== 'above' || !own.cloud.ready) return null;
    const [a, b] = [view.ray(0, 0).from, view.ray(100, 0).from];
    const metre = 100 / Math.hypot(b[0] - a[0], b[1] - a[1]);
    const metres = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].find((m) => m * metre >= 60) ?? 1000;
    return { metres, px: metres * metre, corner: [a[0], a[1]], metre };
  });
  /** What is shown, for those who do not see it; from above also where. */
  const described = $derived(
    failed !== ''
      ? 'nothing can be shown'
      : !own.cloud.ready
        ? 'loading'
        : own.view === 'picture'
          ? 'the picture of a camera'
          : bar
            ? `shown from above: x ${bar.corner[0]!.toFixed(3)}, y ${bar.corner[1]!.toFixed(3)} in the upper left corner, ${bar.metre.toFixed(4)} px a metre`
            : 'shown in space'
  );
  const says = $derived(
    own.fitting
      ? 'fitting'
      : own.mode === 'draw'
        ? `${words.nameOf(chosen.active)}: drag from its back to its front`
        : own.mode === 'pin'
          ? 'pin'
          : own.mode === 'whole'
            ? 'of which it is a part'
            : ''
  );
</script>

<div
  class="sheet"
  class:pictures={own.cameras.length > 0 && own.view !== 'picture'}
  bind:this={sheet}
  bind:clientWidth={width}
  bind:clientHeight={height}
>
  <canvas bind:this={canvas} aria-hidden="true"></canvas>
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div
    class="large"
    class:drawing={own.mode === 'draw'}
    onpointerdowncapture={press}
    onpointermovecapture={move}
    onpointerupcapture={up}
    onpointercancelcapture={cancel}
    onpointerleave={() => hand.hover(null)}
    oncontextmenu={(e) => e.preventDefault()}
  >
    <div class="pane" bind:this={pane} role="application" aria-label={name} aria-describedby="stage-view" data-stage></div>
    <p id="stage-view" class="unseen">{described}</p>
    {#if bar}<p class="bar num" style:width="{bar.px}px" aria-hidden="true">{bar.metres} m</p>{/if}
    {#each tags as t (t.id)}<b class="tag" style:left="{t.x}px" style:top="{t.y}px" style:color={t.color}>{t.word}</b>{/each}
    {#each pins as p (p.id)}<span class="pin num" style:left="{p.x}px" style:top="{p.y}px" title={p.text}>{p.n}</span>{/each}
    {#if says !== ''}<p class="said" role="status">{says}</p>{/if}
    <p class="reading num" aria-hidden="true">
      {own.view === 'space' ? 'in space' : 'from above'} · by {own.looks.by}{#if !own.looks.ground}
        · no ground{/if}{#if own.looks.high !== null}
        · to {own.looks.high} m{/if}{#if own.cloud.frame && !own.cloud.frame.whole}
        · more points come{/if}
    </p>
  </div>
  {#if own.view === 'picture'}
    <div class="large"><Picture {own} /></div>
  {:else if own.cameras.length > 0}
    <div class="picture"><Picture {own} /></div>
  {/if}
  {#each views as v (v)}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <div
      class="view {v}"
      bind:this={hosts[v]}
      style:cursor={cursor[v]}
      data-view={v}
      onpointerdown={(e) => take(v, e)}
      onpointermove={(e) => pull(v, e)}
      onpointerup={let_go}
      onpointercancel={() => {
        grip = null;
        own.drop();
      }}
    >
      {#if on && own.cuboid && panes}
        <Own view={v} {on} cuboid={own.cuboid} {scale} size={panes[v]} color={words.light(hand.one!.class)} editable={own.editable} />
      {/if}
    </div>
  {/each}
  <div class="numbers num" aria-live="off">
    {#if own.cuboid}
      <b>{own.count(own.cuboid).toLocaleString('en')}</b> points
      <dl>
        {#each ['long', 'wide', 'high'] as word, axis (word)}
          <dt>{word}</dt>
          <dd>{own.cuboid.size[axis]!.toFixed(2)} m</dd>
        {/each}
        <dt>turned</dt>
        <dd>{own.cuboid.heading.toFixed(1)}°</dd>
      </dl>
    {:else}
      <span class="soft">take a cuboid into hand: here it is from above, from its side and from its front</span>
    {/if}
  </div>
  {#if failed !== ''}<Failed why={failed} />{:else if own.cloud.failed}<Failed why={own.cloud.failed} />{/if}
</div>

<style>
  .sheet {
    position: relative;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 23% 15%;
    grid-template-rows: minmax(0, 1fr) minmax(0, 0.8fr);
    gap: 1px;
    width: 100%;
    height: 100%;
    background: var(--line);
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  .large {
    position: relative;
    overflow: hidden;
    grid-row: 1 / 3;
    grid-column: 1;
  }
  .pane {
    position: absolute;
    inset: 0;
    touch-action: none;
  }
  .drawing .pane {
    cursor: crosshair;
  }
  .view {
    position: relative;
    overflow: hidden;
    touch-action: none;
    outline: 1px solid var(--line);
  }
  .above {
    grid-row: 1;
    grid-column: 2;
  }
  .side {
    grid-row: 2;
    grid-column: 2;
  }
  .front {
    grid-row: 2;
    grid-column: 3;
  }
  .pictures {
    grid-template-rows: minmax(0, 1fr) minmax(0, 0.7fr) minmax(0, 0.95fr);
  }
  .pictures .large {
    grid-row: 1 / 4;
  }
  .picture {
    position: relative;
    grid-row: 3;
    grid-column: 2 / 4;
    overflow: hidden;
  }
  .numbers {
    position: relative;
    grid-row: 1;
    grid-column: 3;
    background: var(--panel);
    padding: 10px;
    font-size: 12px;
    display: flex;
    flex-direction: column;
    gap: 4px;
    overflow: hidden;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 1px 10px;
    margin: 4px 0 0;
  }
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
    text-align: right;
  }
  .numbers b {
    font-size: 20px;
    font-weight: 500;
  }
  .tag,
  .pin,
  .said,
  .reading {
    position: absolute;
    pointer-events: none;
    background: rgba(23, 27, 26, 0.86);
    border-radius: 3px;
    padding: 1px 7px;
    font-size: 12px;
    white-space: nowrap;
    color: #e9e4d8;
  }
  .tag {
    transform: translate(-50%, -130%);
    font-weight: 500;
  }
  .pin {
    pointer-events: auto;
    transform: translate(-50%, -100%);
    background: var(--accent);
    color: #171b1a;
  }
  .bar {
    position: absolute;
    right: 10px;
    bottom: 8px;
    margin: 0;
    border: 1px solid #b9b4a6;
    border-top: none;
    color: #b9b4a6;
    font-size: 11.5px;
    text-align: center;
    line-height: 1.2;
    pointer-events: none;
  }
  .said {
    left: 50%;
    top: 8px;
    transform: translateX(-50%);
    margin: 0;
  }
  .reading {
    left: 6px;
    bottom: 6px;
    margin: 0;
    color: #b9b4a6;
  }
</style>
