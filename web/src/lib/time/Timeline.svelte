<script lang="ts">
  /**
   * The clip laid out in time: a ruler, its sound, a lane for each track. A bar is where the object is there, open where it is hidden; its keys
   * are the class's sign, filled by hand and hollow when carried or followed. Only what is in sight is drawn.
   */
  import Marker from '$lib/ui/Marker.svelte';
  import { paintMarker } from '$lib/words/marker';
  import { say } from '$lib/words/codebook';
  import type { Saying } from '$lib/words/mark';
  import { onMount, untrack } from 'svelte';
  import type { SayingLane } from './sayings.svelte';
  import type { Row, Timeline } from './timeline.svelte';

  let {
    timeline,
    wave = null,
    rate,
    word = 'frame',
    says,
    editable = true,
    movedKey,
    markedFrames
  }: {
    timeline: Timeline;
    wave?: Int8Array | null;
    rate: number;
    /** what a place is called */
    word?: string;
    /** what else is said of a place, beside its number: its time, where it is not said otherwise */
    says?: (place: number) => string;
    editable?: boolean;
    movedKey?: (id: string, from: number, to: number) => void;
    markedFrames?: (subject: string, from: number, to: number) => void;
  } = $props();
  const { clock, tracks, editor, hand, words } = untrack(() => timeline);

  const ROW = 20;
  const HEAD = 132;
  const RULER = 17;
  const WAVE = 20;
  let width = $state(0);
  let height = $state(0);
  let top = $state(0);
  let canvas: HTMLCanvasElement;
  let raf = 0;
  let dirty = false;
  /** as high as its lanes need where they are few, within bounds */
  const tall = $derived(says ? Math.max(76, Math.min(148, RULER + (timeline.rows.length + 1) * ROW)) : 148);
  const lanesAt = $derived(RULER + (wave ? WAVE : 0));
  const inner = $derived(Math.max(1, width - HEAD));
  const first = $derived(Math.max(0, Math.floor(top / ROW) - 1));
  const shown = $derived(timeline.rows.slice(first, first + Math.ceil(Math.max(0, height - lanesAt) / ROW) + 2));
  const { sayings } = untrack(() => timeline);
  const headX = $derived(((clock.frame + 0.5 - timeline.view.from) / timeline.view.span) * inner);

  function ask() {
    dirty = true;
    if (raf === 0)
      raf = requestAnimationFrame(() => {
        raf = 0;
        if (dirty) paint();
        dirty = false;
      });
  }
  onMount(() => {
    const ends = [
      editor.keys.on(ask),
      editor.marks.on(
        (changes) => changes.some((c) => c.before?.stretches !== c.after?.stretches || c.before?.class !== c.after?.class) && ask()
      )
    ];
    return () => {
      for (const end of ends) end();
      cancelAnimationFrame(raf);
      raf = -1;
    };
  });
  $effect(() => {
    void [
      timeline.view,
      shown,
      width,
      height,
      top,
      wave,
      hand.selected,
      hand.hovered,
      words.looks,
      lanesAt,
      sayings?.chosen,
      sayings?.begun,
      sayings?.marked,
      marking
    ];
    ask();
  });
  $effect(() => {
    // what was begun reaches to the playhead
    if (sayings?.begun) void clock.frame;
    ask();
  });
  $effect(() => {
    const { frame, playing } = clock;
    untrack(() => {
      if (playing || clock.wanted === null) timeline.follow(frame);
    });
  });
  let lanes: HTMLElement;
  $effect(() => {
    // the lane of what is in hand comes into sight
    const at = hand.selected === null ? -1 : timeline.rows.indexOf(hand.selected);
    untrack(() => {
      if (at < 0 || !lanes) return;
      const room = height - lanesAt;
      if (at * ROW < lanes.scrollTop) lanes.scrollTop = at * ROW;
      else if ((at + 1) * ROW > lanes.scrollTop + room) lanes.scrollTop = (at + 1) * ROW - room;
    });
  });

  /** Steps of the ruler one can count in. */
  const steps = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
  function paint() {
    const c = canvas.getContext('2d')!;
    const dpr = devicePixelRatio;
    const [w, h] = [Math.round(inner * dpr), Math.round(height * dpr)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(dpr, 0, 0, dpr, 0, 0);
    c.clearRect(0, 0, inner, height);
    const { from, span } = timeline.view;
    const px = inner / span;
    const x = (frame: number) => (frame - from) * px;
    const style = getComputedStyle(canvas);
    const [line, soft] = [style.getPropertyValue('--line'), style.getPropertyValue('--soft')];
    // ruler
    const step = steps.find((s) => s * px >= 54) ?? steps.at(-1)!;
    c.font = '11px IBM Plex Mono';
    c.textBaseline = 'top';
    c.fillStyle = soft;
    for (let f = Math.floor(from / step) * step; f <= from + span; f += step) {
      const at = Math.round(x(f)) + 0.5;
      c.strokeStyle = line;
      c.beginPath();
      c.moveTo(at, 0);
      c.lineTo(at, height);
      c.stroke();
      c.fillText(String(f + 1), at + 3, 2);
    }
    if (wave) paintWave(c, soft);
    // lanes
    c.save();
    c.beginPath();
    c.rect(0, lanesAt, inner, height - lanesAt);
    c.clip();
    shown.forEach((row, i) => {
      const y = lanesAt + (first + i) * ROW - top;
      if (typeof row === 'string') lane(c, row, y, x, px);
      else said(c, row, y, x);
    });
    c.restore();
  }
  /** the loudest there is fills its row: a quiet clip is seen as well as a loud one */
  const loudest = $derived.by(() => {
    let most = 1;
    for (const v of wave ?? []) most = Math.max(most, Math.abs(v));
    return most;
  });
  function paintWave(c: CanvasRenderingContext2D, color: string) {
    const mid = RULER + WAVE / 2;
    const k = (WAVE - 3) / 2 / loudest;
    c.fillStyle = color;
    for (let at = 0; at < inner; at++) {
      const f = timeline.view.from + (at / inner) * timeline.view.span;
      const [a, b] = [seconds(f), seconds(f + timeline.view.span / inner)];
      const [i, j] = [Math.floor(a * 100), Math.max(Math.floor(a * 100) + 1, Math.floor(b * 100))];
      let [least, most] = [0, 0];
      // of many steps under one px some stand for all
      for (let k = i, by = Math.max(1, Math.floor((j - i) / 24)); k < j && 2 * k + 1 < wave!.length; k += by) {
        least = Math.min(least, wave![2 * k]!);
        most = Math.max(most, wave![2 * k + 1]!);
      }
      c.fillRect(at, mid - most * k, 1, Math.max(0.6, (most - least) * k));
    }
  }
  const seconds = (frame: number): number => clock.times.seconds(Math.floor(frame)) + (frame - Math.floor(frame)) / rate;

  /** Bars with their word on them; what has to be said and is not stays open. */
  function said(c: CanvasRenderingContext2D, row: SayingLane, y: number, x: (f: number) => number) {
    const { from, span } = timeline.view;
    c.font = '12px Hanken Grotesk Variable';
    c.textBaseline = 'middle';
    const style = getComputedStyle(canvas);
    const [ink, accent, edge] = ['--ink', '--accent', '--edge'].map((name) => style.getPropertyValue(name)) as [string, string, string];
    const bar = (a: number, b: number, word: string, lit: boolean, open: boolean) => {
      if (b < from || a > from + span) return;
      const [left, right] = [Math.max(-6, x(a)), Math.min(inner + 6, x(b + 1))];
      c.lineWidth = lit ? 1.6 : 1;
      c.strokeStyle = lit ? accent : edge;
      if (open) c.setLineDash([3, 3]);
      else {
        c.fillStyle = 'rgba(233,228,216,.1)';
        c.fillRect(left, y + 2.5, Math.max(1, right - left), ROW - 5);
      }
      c.strokeRect(left + 0.5, y + 3, Math.max(1, right - left - 1), ROW - 6);
      c.setLineDash([]);
      if (right - left < 22) return;
      c.save();
      c.beginPath();
      c.rect(left, y, right - left - 3, ROW);
      c.clip();
      c.fillStyle = ink;
      c.fillText(word, Math.max(0, left) + 5, y + ROW / 2 + 0.5);
      c.restore();
    };
    const { chosen, begun, marked } = sayings!;
    if (row.required)
      for (const [a, b] of sayings!.gaps(row.subject.slice('question '.length))) {
        c.fillStyle = accent;
        c.globalAlpha = 0.75;
        c.fillRect(Math.max(0, x(a)), y + ROW - 3.5, Math.min(inner, x(b + 1)) - Math.max(0, x(a)), 1.5);
        c.globalAlpha = 1;
      }
    for (const s of row.list) bar(s.first, s.last, wordOf(s, row.name), chosen?.subject === row.subject && chosen.first === s.first, false);
    if (marking?.subject === row.subject && marking.from !== marking.to)
      bar(Math.min(marking.from, marking.to), Math.max(marking.from, marking.to), `${row.name} …`, true, true);
    if (marked && row.subject === `question ${marked.question}`) bar(marked.first, marked.last, `${row.name} ?`, true, true);
    if (begun && row.subject === `tag ${begun.tag}`)
      bar(Math.min(begun.first, clock.frame), Math.max(begun.first, clock.frame), `${row.name} …`, true, true);
  }
  const wordOf = (s: Saying, name: string): string => {
    if ('tag' in s) return name;
    const question = words.document.attributes?.find((a) => a.key === s.question);
    return question ? say(question, s.answer) : s.question;
  };

  function lane(c: CanvasRenderingContext2D, id: string, y: number, x: (f: number) => number, px: number) {
    const mark = editor.marks.get(id);
    const track = tracks.of(id);
    if (!mark?.stretches || !track) return;
    const color = words.light(mark.class);
    const mine = hand.has(id);
    if (mine || hand.hovered === id) {
      c.fillStyle = mine ? 'rgba(111,195,168,.16)' : 'rgba(111,195,168,.08)';
      c.fillRect(0, y, inner, ROW);
    }
    const { from, span } = timeline.view;
    for (const [a, b] of mark.stretches) {
      if (b < from || a > from + span) continue;
      let open = a;
      const bar = (until: number, hidden: boolean) => {
        const [left, right] = [Math.max(-4, x(open)), Math.min(inner + 4, x(until + 1))];
        if (hidden) {
          c.strokeStyle = color;
          c.lineWidth = 1;
          c.setLineDash([3, 3]);
          c.strokeRect(left + 0.5, y + 6.5, Math.max(1, right - left - 1), ROW - 13);
          c.setLineDash([]);
        } else {
          c.fillStyle = color;
          c.globalAlpha = mine ? 0.5 : 0.34;
          c.fillRect(left, y + 6, Math.max(1, right - left), ROW - 12);
          c.globalAlpha = 1;
        }
        open = until + 1;
      };
      let hidden = track.before(a)?.hidden ?? false;
      for (const key of track.keys) {
        if (key.place <= a || key.place > b || key.hidden === hidden) continue;
        bar(key.place - 1, hidden);
        hidden = key.hidden;
      }
      bar(b, hidden);
    }
    const dense = px < 2.5;
    for (const key of track.keys) {
      if (key.place < from - 1 || key.place > from + span) continue;
      const at = x(key.place + 0.5);
      if (dense) {
        c.fillStyle = color;
        c.fillRect(at - 0.5, y + 4, 1, ROW - 8);
      } else sign(c, words.marker(mark.class), color, at, y + ROW / 2, key.source === 'hand', key.source === 'model');
    }
  }
  function sign(c: CanvasRenderingContext2D, marker: string, color: string, x: number, y: number, filled: boolean, dashed: boolean) {
    if (filled) return paintMarker(c, marker, color, x, y, 4);
    c.fillStyle = '#171b1a';
    c.beginPath();
    c.arc(x, y, 5.5, 0, 7);
    c.fill();
    c.strokeStyle = color;
    c.lineWidth = 1.4;
    if (dashed) c.setLineDash([2, 1.6]);
    c.beginPath();
    c.arc(x, y, 3.4, 0, 7);
    c.stroke();
    c.setLineDash([]);
  }

  // --- by hand
  let scrubbing = false;
  /** a key that is being moved: of which mark, and from where */
  let drag: { id: string; from: number } | null = null;
  const at = (e: PointerEvent | WheelEvent) => {
    const r = canvas.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const rowAt = (y: number): Row | null => (y < lanesAt ? null : (timeline.rows[Math.floor((y - lanesAt + top) / ROW)] ?? null));
  /** an end of a stretch that is being moved */
  let end: 'first' | 'last' | null = null;
  /** frames that are being marked where nothing is said yet, on the lane of what is to be said */
  let marking = $state.raw<{ subject: string; from: number; to: number } | null>(null);
  function down(e: PointerEvent) {
    if (e.button !== 0) return;
    canvas.setPointerCapture(e.pointerId);
    const p = at(e);
    const row = rowAt(p.y);
    const id = typeof row === 'string' ? row : null;
    const frame = timeline.frameAt(p.x, inner);
    if (id !== null && id !== hand.selected) hand.select(id);
    const px = inner / timeline.view.span;
    if (row !== null && typeof row !== 'string') {
      const taken = row.list.find((s) => s.first - 5 / px <= frame && frame <= s.last + 5 / px);
      hand.select(null);
      sayings!.chosen = taken ? { subject: row.subject, first: taken.first } : null;
      const x = (f: number) => (f - timeline.view.from) * px;
      marking = editable && !taken ? { subject: row.subject, from: frame, to: frame } : null;
      end = taken && Math.abs(x(taken.first) - p.x) <= 5 ? 'first' : taken && Math.abs(x(taken.last + 1) - p.x) <= 5 ? 'last' : null;
    } else end = marking = null;
    const near = id === null ? undefined : tracks.of(id)?.keys.find((k) => Math.abs((k.place + 0.5 - timeline.view.from) * px - p.x) <= 5);
    drag = near && id !== null && px >= 2.5 ? { id, from: near.place } : null;
    scrubbing = true;
    void clock.go(near ? near.place : frame);
  }
  function move(e: PointerEvent) {
    if (!scrubbing) return;
    const frame = timeline.frameAt(Math.max(0, Math.min(inner - 1, at(e).x)), inner);
    if (end !== null && editable) sayings!.bound(end, frame);
    if (marking && marking.to !== frame) marking = { ...marking, to: frame };
    if (drag === null && frame !== clock.heading) void clock.go(frame);
  }
  function up(e: PointerEvent) {
    if (!scrubbing) return;
    scrubbing = false;
    end = null;
    if (marking && marking.to !== marking.from) markedFrames?.(marking.subject, marking.from, marking.to);
    marking = null;
    if (drag === null) return;
    const to = timeline.frameAt(Math.max(0, Math.min(inner - 1, at(e).x)), inner);
    if (to !== drag.from) movedKey?.(drag.id, drag.from, to);
    drag = null;
  }
  function wheel(e: WheelEvent) {
    e.preventDefault();
    const p = at(e);
    if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) timeline.pan(((e.deltaX || e.deltaY) / inner) * timeline.view.span);
    else timeline.zoom(timeline.view.from + (p.x / inner) * timeline.view.span, Math.exp(-e.deltaY / 300));
  }
  const clockWord = (frame: number): string => {
    if (says) return says(frame);
    const s = clock.times.seconds(frame);
    return `${Math.floor(s / 60)}:${(s % 60).toFixed(2).padStart(5, '0')}`;
  };
</script>

<div class="time" style:height="{tall}px" bind:clientWidth={width} bind:clientHeight={height}>
  <div class="heads" style:width="{HEAD}px">
    <div class="now num" style:height="{lanesAt}px" title={says ? word : 'frame, and time from the start of the clip'}>
      <b>{clock.frame + 1}</b><span class="soft">{clockWord(clock.frame)}</span>
    </div>
    <div class="names" role="list" aria-label="lanes" bind:this={lanes} onscroll={(e) => (top = e.currentTarget.scrollTop)}>
      <div style:height="{timeline.rows.length * ROW}px" style:position="relative">
        {#each shown as row, i (typeof row === 'string' ? row : row.subject)}
          {@const id = typeof row === 'string' ? row : ''}
          {@const m = editor.marks.get(id)}
          {#if typeof row !== 'string'}<div role="listitem" class="name said" style:top="{(first + i) * ROW}px">
              <span title={row.name}>{row.name}</span>
            </div>{:else if m}<div role="listitem" class="name" class:here={hand.has(id)} style:top="{(first + i) * ROW}px">
              <button
                title="{words.nameOf(m.class)}: to where it begins"
                onclick={() => {
                  hand.select(id);
                  void clock.go(m.stretches?.[0]?.[0] ?? 0);
                }}
                onmouseenter={() => hand.hover(id)}
                onmouseleave={() => hand.hover(null)}
                ><Marker marker={words.marker(m.class)} color={words.light(m.class)} size={10} />{words.nameOf(m.class)}
                <span class="num soft">{editor.marks.of(m.class).indexOf(id) + 1}</span></button
              >
            </div>{/if}
        {/each}
      </div>
    </div>
  </div>
  <div class="lanes">
    <canvas
      bind:this={canvas}
      style:width="{inner}px"
      style:height="{height}px"
      onpointerdown={down}
      onpointermove={move}
      onpointerup={up}
      onpointercancel={() => ((scrubbing = false), (drag = null))}
      onwheel={wheel}
    ></canvas>
    <div
      class="head"
      class:late={clock.wanted !== null && clock.wanted !== clock.frame}
      role="slider"
      tabindex="0"
      aria-label={word}
      aria-valuemin={1}
      aria-valuemax={timeline.places}
      aria-valuenow={clock.frame + 1}
      aria-valuetext="{word} {clock.frame + 1} of {timeline.places}, {clockWord(clock.frame)}"
      style:transform="translateX({headX}px)"
      style:visibility={headX < -2 || headX > inner + 2 ? 'hidden' : 'visible'}
      onkeydown={(e) => {
        const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -clock.step, PageUp: clock.step }[e.key];
        if (by === undefined && e.key !== 'Home' && e.key !== 'End') return;
        e.preventDefault();
        e.stopPropagation();
        void (by === undefined ? clock.go(e.key === 'Home' ? 0 : timeline.places - 1) : clock.by(by));
      }}
    >
      <span class="num" class:left={headX < 16} class:right={headX > inner - 16}>{clock.frame + 1}</span>
    </div>
  </div>
</div>

<style>
  .time {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr);
    background: var(--sunk);
    border-top: 1px solid var(--line);
    overflow: hidden;
  }
  .heads {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    border-right: 1px solid var(--line);
    min-height: 0;
  }
  .now {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 0 8px;
    font-size: 12px;
  }
  .names {
    overflow-y: auto;
    scrollbar-width: none;
    min-height: 0;
  }
  .name {
    position: absolute;
    left: 0;
    right: 0;
    height: 20px;
  }
  .name.here {
    background: color-mix(in srgb, var(--primary) 18%, transparent);
  }
  .said span {
    display: block;
    padding: 0 8px;
    font-size: 12.5px;
    line-height: 20px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    color: var(--soft);
  }
  .name button {
    display: flex;
    gap: 6px;
    align-items: center;
    width: 100%;
    padding: 0 8px;
    font-size: 12.5px;
    line-height: 20px;
    cursor: pointer;
    white-space: nowrap;
    text-align: left;
  }
  .lanes {
    position: relative;
    overflow: hidden;
    min-width: 0;
  }
  canvas {
    position: absolute;
    inset: 0;
    touch-action: none;
    cursor: default;
  }
  .head {
    position: absolute;
    top: 0;
    bottom: 0;
    left: -1px;
    width: 2px;
    background: var(--accent);
    pointer-events: none;
    outline: none;
  }
  .head.late {
    opacity: 0.55;
  }
  .head span {
    position: absolute;
    top: 0;
    left: 0;
    transform: translateX(-50%);
    background: var(--accent);
    color: #171b1a;
    font-size: 11px;
    line-height: 15px;
    padding: 0 4px;
    border-radius: 0 0 3px 3px;
  }
  .head span.left {
    transform: none;
  }
  .head span.right {
    transform: translateX(-100%);
  }
  .head:focus-visible {
    box-shadow: 0 0 0 2px var(--primary);
  }
</style>
