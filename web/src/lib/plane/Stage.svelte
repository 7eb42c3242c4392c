<script lang="ts">
  /**
   * A flat item with its marks: what lies under them, the settled marks, the marks in hand, and what moves with the pointer. Each is a canvas
   * that is drawn only when it changed.
   */
  import type { Ground } from './ground';
  import { HandLayer, LitLayer } from './layers/hand';
  import { Layer } from './layers/layer';
  import { MarksLayer } from './layers/marks';
  import Loupe from './Loupe.svelte';
  import type { Plane } from './plane.svelte';
  import { markAt } from './tools/tool';
  import type { Mark, Point } from '$lib/words/mark';
  import { onMount, untrack } from 'svelte';

  let { plane, ground, name }: { plane: Plane; ground: Ground; name: string } = $props();
  // one item, one stage: the page makes another for the next
  const { sight, pointer, ports, show, drawing, assist, nudge, looked, cutout, patches } = untrack(() => plane);
  const { hand, words, editor, findings } = ports;

  /** Screen px round what is shown that are drawn too. */
  const AIR = 220;
  /** Time after which a view has come to rest. */
  const REST = 90;
  let host: HTMLElement;
  const canvases: Record<'ground' | 'marks' | 'lit' | 'hand', HTMLCanvasElement> = {} as never;
  let layers: { ground: Layer; marks: Layer; lit: Layer; hand: Layer } | null = null;
  let marks: MarksLayer | null = null;
  const litLayer = new LitLayer(untrack(() => plane));
  const handLayer = new HandLayer(untrack(() => plane));
  let width = $state(0);
  let height = $state(0);
  const dirty = { ground: true, lit: true, hand: true };
  let frame = 0;
  /** marks the tool shows instead of the settled ones */
  let wasHeld = '';
  let rest: ReturnType<typeof setTimeout> | undefined;

  onMount(() => {
    layers = {
      ground: new Layer(canvases.ground, AIR),
      marks: new Layer(canvases.marks, AIR),
      lit: new Layer(canvases.lit),
      hand: new Layer(canvases.hand)
    };
    marks = new MarksLayer(layers.marks, plane, findings);
    const ends = [
      editor.marks.on((changes) => {
        for (const c of changes) marks!.changed(c.before, c.after);
        // pixels that are labelled, or not, may be anywhere
        if (show.coverage) marks!.invalidate();
        ask('lit', 'hand');
      }),
      findings.on((ids) => {
        marks!.changed(...ids.map((id) => editor.marks.get(id) ?? null));
        ask();
      })
    ];
    ask('ground', 'lit', 'hand');
    return () => {
      for (const end of ends) end();
      clearTimeout(rest);
      cancelAnimationFrame(frame);
      frame = -1;
    };
  });

  function ask(...which: (keyof typeof dirty)[]) {
    for (const layer of which) dirty[layer] = true;
    if (frame === 0) frame = requestAnimationFrame(paint);
  }
  function all() {
    marks?.invalidate();
    ask('ground', 'lit', 'hand');
  }
  function follow() {
    if (!layers) return;
    for (const layer of Object.values(layers)) layer.follow(sight.view);
    clearTimeout(rest);
    rest = setTimeout(() => {
      all();
      if (ground.ready) looked.look();
      if (patched) patches.ahead();
    }, REST);
  }
  /** masks are painted here: patches are wanted before they are asked for */
  const patched = $derived(
    ground.ready && ports.mode !== 'look' && drawing.mode === 'draw' && drawing.shape === 'mask' && !drawing.cutting
  );
  $effect(() => {
    // of a clip those of the frame that is shown
    void [patched, ports.place?.(), ground.version];
    untrack(() => {
      if (patched && (ports.place === undefined || drawing.paint.patches)) patches.ahead();
    });
  });

  function paint() {
    frame = 0;
    if (width === 0 || !layers || !marks) return;
    const { view, stage } = sight;
    if (dirty.ground) ground.paint(layers.ground.begin(view, stage), view, sight.part(view, AIR));
    const preview = plane.tool.preview();
    const inHand = new Set([...(preview?.id ? [preview.id] : []), ...(preview?.also ?? []).map((a) => a.id)]);
    // a mask in hand is drawn once, by itself: twice would be twice as dense
    const left = [...inHand, ...(nudge.shown?.keys() ?? [])].map((id) => editor.marks.get(id)).filter((m): m is Mark => m !== undefined);
    if (hand.mark?.kind === 'mask') left.push(hand.mark);
    marks.leave(left);
    if (marks.isDirty) marks.paint(view);
    const held = [...inHand].join();
    if (dirty.lit || held !== wasHeld) litLayer.paint(layers.lit.begin(view, stage), view, inHand);
    if (dirty.hand) handLayer.paint(layers.hand.begin(view, stage), view, layers.hand.canvas);
    wasHeld = held;
    dirty.ground = dirty.lit = dirty.hand = false;
  }

  // each effect names what its layer depends on, and only asks for a frame
  $effect(() => {
    void sight.view;
    untrack(follow);
  });
  $effect(() => {
    const size = { width, height };
    untrack(() => {
      sight.resize(size);
      all();
    });
  });
  $effect(() => {
    void ground.version;
    untrack(() => ask('ground'));
  });
  $effect(() => {
    if (!ground.ready) return;
    // what the picture opens with is looked at too
    const timer = setTimeout(() => looked.look(), 300);
    return () => clearTimeout(timer);
  });
  $effect(() => {
    void [show.hidden, show.coverage, show.opacity, show.weight, show.names, plane.over, ports.pins(), words.looks];
    untrack(all);
  });
  $effect(() => {
    void [hand.selected, hand.others, nudge.shown, show.shade, looked.isShown, looked.seen, plane.beat];
    ask('lit', 'hand');
  });
  $effect(() => {
    void [
      hand.hovered,
      hand.point,
      pointer.at,
      pointer.panning,
      drawing.mode,
      drawing.shape,
      drawing.cutting,
      drawing.paint,
      cutout.state,
      cutout.found,
      cutout.adds,
      patches.now,
      patches.version,
      patches.strength,
      ports.chosen.active,
      assist.proposal,
      assist.air
    ];
    ask('hand');
  });

  const tag = $derived.by(() => {
    void [
      plane.beat,
      hand.selected,
      drawing.stroke,
      drawing.follow,
      drawing.together,
      sight.view,
      cutout.adds,
      cutout.state,
      drawing.paint,
      patches.now,
      patches.failed
    ];
    if (!pointer.at || pointer.panning) return null;
    if (pointer.grabs) return { word: 'pan', color: '' };
    const { doubt } = assist;
    if (doubt) {
      const own = editor.marks.get(doubt.mark)?.class ?? '';
      return { word: `${words.nameOf(own)}? looks like ${words.nameOf(doubt.class)}`, color: words.light(doubt.class) };
    }
    return plane.tool.tag(pointer.at);
  });
  const cursor = $derived.by(() => {
    void plane.beat;
    if (pointer.panning) return 'grabbing';
    if (pointer.grabs) return 'grab';
    return pointer.at ? plane.tool.cursor(pointer.at) : 'default';
  });
  /** a point is being set: the drag of a handle, or the far corner of what is drawn */
  const setting = $derived.by(() => {
    void [plane.beat, pointer.at];
    const preview = plane.tool.preview();
    return preview?.shape !== undefined && preview.shape.kind !== 'mask' && !preview.box;
  });
  const place = $derived(pointer.screen);

  const on = (e: { clientX: number; clientY: number }): Point => {
    const r = host.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const client = (e: PointerEvent): Point => ({ x: e.clientX, y: e.clientY });
  function down(e: PointerEvent) {
    host.focus({ preventScroll: true });
    host.setPointerCapture(e.pointerId);
    if (e.button === 1) e.preventDefault();
    pointer.down(on(e), client(e), e.button, e.shiftKey);
  }
  function move(e: PointerEvent) {
    pointer.move(on(e), client(e), (e.getCoalescedEvents?.() ?? []).map(on));
    ask('hand');
  }
  /** two presses look closer at the object under the pointer */
  function closer() {
    const mark = drawing.mode === 'pick' && pointer.at ? markAt(plane.tools.at, pointer.at) : null;
    if (mark) plane.to(mark);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="stage"
  role="application"
  aria-label="picture {name}, {sight.picture.width} × {sight.picture.height} pixels"
  aria-describedby="stage-view"
  tabindex="0"
  bind:this={host}
  bind:clientWidth={width}
  bind:clientHeight={height}
  style:cursor
  onpointerdown={down}
  onpointermove={move}
  onpointerup={(e) => pointer.up(on(e), e.button)}
  onpointercancel={() => pointer.cancel()}
  onpointerleave={() => pointer.leave()}
  onwheel={(e) => {
    e.preventDefault();
    // with Shift held browsers may call it sideways
    if ((e.shiftKey || e.altKey) && plane.acted(() => plane.tool.dial?.((e.deltaY || e.deltaX) < 0 ? 1 : -1, e.altKey))) return;
    // (a touchpad that pinches says Ctrl)
    if (ports.through && !e.ctrlKey && !e.metaKey && !e.shiftKey && !e.altKey) {
      if (e.deltaY !== 0) ports.through(e.deltaY > 0 ? 1 : -1);
    } else if (ports.scrolls && !e.ctrlKey && !e.metaKey)
      pointer.scroll(on(e), e.shiftKey ? e.deltaY : e.deltaX, e.shiftKey ? 0 : e.deltaY);
    else pointer.wheel(on(e), e.deltaY);
  }}
  ondblclick={closer}
  oncontextmenu={(e) => e.preventDefault()}
>
  <canvas bind:this={canvases.ground} style:filter={show.filter}></canvas>
  {#if show.tone.gamma !== 1}
    <svg class="unseen" aria-hidden="true"
      ><filter id="gamma" color-interpolation-filters="sRGB"
        ><feComponentTransfer
          >{#each ['R', 'G', 'B'] as channel (channel)}<svelte:element
              this={`feFunc${channel}`}
              xmlns="http://www.w3.org/2000/svg"
              type="gamma"
              exponent={1 / show.tone.gamma}
            />{/each}</feComponentTransfer
        ></filter
      ></svg
    >
  {/if}
  <canvas bind:this={canvases.marks}></canvas>
  <canvas bind:this={canvases.lit}></canvas>
  <canvas bind:this={canvases.hand}></canvas>
  {#if show.loupe && setting && pointer.at && ground.ready && !pointer.panning && sight.view.scale < 4}
    <Loupe {ground} at={pointer.at} stage={{ ...place, width }} color={words.light(hand.mark?.class ?? ports.chosen.active)} />
  {/if}
  {#if pointer.byKeys && pointer.at}<i class="aim" style:transform="translate({place.x - 9}px, {place.y - 9}px)" aria-hidden="true"
    ></i>{/if}
  <span id="stage-view" class="unseen"
    >zoom {sight.view.scale.toFixed(5)}, picture at {sight.view.x.toFixed(3)}
    {sight.view.y.toFixed(3)}, {ground.ready ? 'shown' : 'loading'}</span
  >
  {#if tag}
    <div class="tag" style:transform="translate({place.x + 14}px, {place.y + 16}px)">
      {#if tag.color}<i style:background={tag.color}></i>{/if}{tag.word}
    </div>
  {/if}
  {#if plane.coverageWords !== ''}<p class="left" role="status" aria-label="coverage">{plane.coverageWords}</p>{/if}
</div>

<style>
  .stage {
    position: relative;
    overflow: hidden;
    background: var(--stage);
    width: 100%;
    height: 100%;
    touch-action: none;
    user-select: none;
    outline: none;
  }
  .stage:focus-visible {
    box-shadow: inset 0 0 0 2px var(--primary);
  }
  canvas {
    position: absolute;
    top: 0;
    left: 0;
    transform-origin: 0 0;
    pointer-events: none;
  }
  .tag,
  .left {
    position: absolute;
    pointer-events: none;
    background: rgba(23, 27, 26, 0.86);
    color: #e9e4d8;
    border-radius: 3px;
    padding: 1px 7px;
    font-size: 12px;
    white-space: nowrap;
  }
  .tag {
    top: 0;
    left: 0;
    display: flex;
    gap: 5px;
    align-items: center;
  }
  .left {
    left: 8px;
    bottom: 8px;
  }
  .aim {
    position: absolute;
    top: 0;
    left: 0;
    width: 18px;
    height: 18px;
    border: 1.5px solid #f7f3ea;
    border-radius: 50%;
    pointer-events: none;
  }
  .tag i {
    width: 8px;
    height: 8px;
    border-radius: 2px;
  }
</style>
