// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { laid, mark } from '../../../test/plane';
import { markAt } from './tool';

beforeEach(() => sessionStorage.clear());
const geometries = (bench: ReturnType<typeof laid>) => bench.all().map((m) => m.geometry);
const changed = (bench: ReturnType<typeof laid>) => bench.tray.entries.map(({ edit }) => [edit.action, edit.mark]);
const a = mark('a', [100, 100, 50, 40]);
const picking = (...args: Parameters<typeof laid>) => {
  const bench = laid(...args);
  bench.drawing.mode = 'pick';
  return bench;
};

describe('the box tool', () => {
  it('draws by dragging, in any direction, and stops at the edge of the picture', () => {
    const bench = laid();
    const { tool } = bench.plane;
    tool.down({ x: 120, y: 90 });
    tool.move({ x: 80, y: 60 });
    expect(tool.preview()?.shape?.geometry).toEqual({ x: 80, y: 60, width: 40, height: 30 });
    tool.up({ x: -50, y: 20 });
    expect(geometries(bench)).toEqual([{ x: 0, y: 20, width: 120, height: 70 }]);
    expect(tool.preview()).toBeNull();
    // the mark is in hand, and its first required question is open
    expect([bench.hand.size, bench.asking.question]).toEqual([1, 'ripe']);
  });
  it('draws by two presses, and Esc between them gives up', () => {
    const bench = laid();
    bench.press(10, 10);
    expect(bench.plane.tool.tag({ x: 10, y: 10 }).word).toBe('far corner');
    expect(bench.plane.isDrawing).toBe(true);
    expect(bench.plane.tool.cancel()).toBe(true);
    expect(bench.all()).toEqual([]);
    bench.press(10, 10);
    bench.plane.tool.move({ x: 60, y: 50 });
    bench.press(60, 50);
    expect(geometries(bench)).toEqual([{ x: 10, y: 10, width: 50, height: 40 }]);
  });
  it('leaves no mark of no size: two presses on one spot draw nothing', () => {
    const bench = laid();
    for (let i = 0; i < 2; i++) bench.press(10, 10);
    expect(bench.all()).toEqual([]);
    expect(bench.plane.tool.preview()).toBeNull();
  });
  it('pulls a handle of the mark in hand instead of drawing over it', () => {
    const bench = laid({ marks: [a] });
    bench.hand.select('a');
    expect(bench.plane.tool.tag({ x: 150, y: 140 }).word).toBe('resize');
    expect(bench.plane.tool.cursor({ x: 150, y: 140 })).toBe('nwse-resize');
    bench.drag([150, 140], [170, 150]);
    expect(geometries(bench)).toEqual([{ x: 100, y: 100, width: 70, height: 50 }]);
    expect(bench.plane.tool.cursor({ x: 20, y: 20 })).toBe('crosshair');
  });
  it('draws nothing where one only looks, and says so where the codebook has no class', () => {
    const looking = laid({ mode: 'look' });
    looking.drag([10, 10], [60, 50]);
    expect(looking.all()).toEqual([]);
    const empty = laid({ active: '' });
    empty.drag([10, 10], [60, 50]);
    expect([empty.all().length, empty.messages.length]).toEqual([0, 1]);
  });
});

describe('shapes of three presses and skeletons', () => {
  it('a turned box: one side, then its depth on either hand', () => {
    const bench = laid({ active: 'tree' });
    bench.drawing.shape = 'turned_box';
    bench.drag([100, 100], [140, 130]);
    expect(bench.plane.tool.tag({ x: 0, y: 0 }).word).toBe('depth');
    bench.press(128, 146);
    expect(geometries(bench)[0]).toMatchObject({ width: 50, angle: 36.87, height: 20, cx: 114, cy: 123 });
  });
  it('a cuboid: the near face, then where the far one lies', () => {
    const bench = laid({ active: 'tree' });
    bench.drawing.shape = 'cuboid_2d';
    bench.drag([100, 100], [200, 180]);
    bench.press(180, 120);
    expect(geometries(bench)[0]).toEqual({
      front: { x: 100, y: 100, width: 100, height: 80 },
      back: { x: 140, y: 88, width: 80, height: 64 }
    });
  });
  it('an ellipse by its extent', () => {
    const bench = laid({ active: 'tree' });
    bench.drawing.shape = 'ellipse';
    bench.drag([100, 100], [140, 120]);
    expect(geometries(bench)[0]).toEqual({ cx: 120, cy: 110, rx: 20, ry: 10, angle: 0 });
  });
  it('a skeleton from head to tail, as the animal lies', () => {
    const bench = laid({ active: 'moth' });
    bench.drag([100, 100], [200, 100]);
    const { nodes } = geometries(bench)[0] as { nodes: Record<string, { x: number; y: number; state: string }> };
    // it lies to the right, so its left side is up on the screen turned by a quarter
    expect([nodes.head, nodes.tail]).toEqual([
      { x: 100, y: 100, state: 'visible' },
      { x: 200, y: 100, state: 'visible' }
    ]);
    expect([nodes.l!.x, nodes.l!.y, nodes.r!.x, nodes.r!.y]).toEqual([150, 150, 150, 50]);
  });
  it('an upright skeleton as a box', async () => {
    const { orchard } = await import('../../../test/plane');
    const document = {
      ...orchard,
      classes: orchard.classes.map((c) => (c.key === 'moth' ? { ...c, orientation: 'upright' as const } : c))
    };
    const bench = laid({ active: 'moth', document });
    bench.drag([100, 100], [200, 140]);
    const { nodes } = geometries(bench)[0] as { nodes: Record<string, { x: number; y: number }> };
    expect([nodes.l!.x, nodes.l!.y, nodes.tail!.x, nodes.tail!.y]).toEqual([100, 120, 150, 140]);
  });
});

describe('the pick tool', () => {
  it('takes the smaller of two marks, and on a second press the one beneath, round and round', () => {
    const bench = picking({ marks: [mark('large', [0, 0, 200, 200]), mark('small', [80, 80, 40, 40])] });
    for (const expected of ['small', 'large', 'small']) {
      bench.press(100, 100);
      expect(bench.hand.selected).toBe(expected);
    }
    bench.press(350, 250);
    expect(bench.hand.selected).toBeNull();
  });
  it('moves what it takes, but a press that hardly moves changes nothing', () => {
    const bench = picking({ marks: [a] });
    bench.drag([120, 120], [121, 121]);
    expect(changed(bench)).toEqual([]);
    bench.drag([120, 120], [150, 110]);
    expect(geometries(bench)).toEqual([{ x: 130, y: 90, width: 50, height: 40 }]);
  });
  it('at another zoom a hardly moved press is measured on the screen, not on the picture', () => {
    const bench = picking({ marks: [mark('a', [10, 10, 20, 20])] });
    bench.plane.sight.view = { scale: 10, x: 0, y: 0 };
    bench.drag([20, 20], [20.5, 20]);
    expect(geometries(bench)).toEqual([{ x: 10.5, y: 10, width: 20, height: 20 }]);
  });
  it('takes all marks a drag from an empty place encloses, and one more with Shift', () => {
    const bench = picking({ marks: [a, mark('b', [200, 100, 50, 40]), mark('c', [300, 200, 50, 40])] });
    bench.drag([90, 90], [260, 160]);
    expect([bench.hand.selected, bench.hand.others]).toEqual(['a', ['b']]);
    bench.press(320, 220, true);
    expect([bench.hand.others, changed(bench)]).toEqual([['b', 'c'], []]);
  });
  it('leaves a locked mark where it is', () => {
    const bench = picking({ marks: [a] });
    bench.hand.select('a');
    bench.hand.toggleLock();
    bench.drag([120, 120], [200, 200]);
    expect(changed(bench)).toEqual([]);
    expect(bench.plane.tool.tag({ x: 120, y: 120 }).word).toBe('locked');
  });
  it('changes nothing where one only looks', () => {
    const bench = picking({ marks: [a], mode: 'look' });
    bench.drag([120, 120], [200, 200]);
    expect([bench.hand.selected, changed(bench)]).toEqual(['a', []]);
    expect(bench.plane.tool.tag({ x: 120, y: 120 }).word).toBe('pick');
  });
  it('Esc in the middle of a move leaves the mark where it was', () => {
    const bench = picking({ marks: [a] });
    const { tool } = bench.plane;
    tool.down({ x: 120, y: 120 });
    tool.move({ x: 200, y: 200 });
    expect(tool.preview()?.shape?.geometry).toMatchObject({ x: 180 });
    expect(tool.cancel()).toBe(true);
    tool.up({ x: 200, y: 200 });
    expect(changed(bench)).toEqual([]);
  });
  it('a pointer the browser takes away leaves nothing half taken', () => {
    const bench = picking({ marks: [a] });
    const { pointer, tool } = bench.plane;
    pointer.down({ x: 120, y: 120 }, { x: 0, y: 0 }, 0, false);
    pointer.move({ x: 200, y: 200 }, { x: 0, y: 0 });
    expect(tool.preview()?.id).toBe('a');
    const beat = bench.plane.beat;
    pointer.cancel();
    expect([tool.preview(), bench.plane.beat > beat]).toEqual([null, true]);
    pointer.up({ x: 200, y: 200 }, 0);
    expect(changed(bench)).toEqual([]);
  });
  it('nor does it take what was drawn before: not by a pan, not by a press', () => {
    const bench = laid({ active: 'leaf' });
    const { pointer, drawing, tools } = bench.plane;
    [drawing.mode, drawing.shape] = ['draw', 'polygon'];
    const at = (x: number, y: number) => ({ x, y });
    const none = at(0, 0);
    for (const [x, y] of [[10, 10], [60, 10]] as const) { pointer.down(at(x, y), none, 0, false); pointer.up(at(x, y), 0); } // prettier-ignore
    pointer.down(at(5, 5), none, 1, false);
    pointer.cancel();
    expect(pointer.panning).toBeNull();
    pointer.down(at(60, 60), none, 0, false);
    pointer.cancel();
    pointer.up(at(60, 60), 0);
    // no press at all
    pointer.cancel();
    expect(tools.outline.points).toEqual([10, 10, 60, 10]);
    // a stretch that was being laid ends where it was
    pointer.down(at(60, 60), none, 0, false);
    for (let i = 1; i < 6; i++) pointer.move(at(60 - 9 * i, 60 + i), none);
    pointer.cancel();
    expect(tools.outline.points.length).toBeGreaterThan(6);
    tools.outline.finish();
    expect(changed(bench)).toHaveLength(1);
  });
  it('and what a brush has painted until then is painted', () => {
    const bench = laid({ active: 'apple' });
    const { pointer, drawing } = bench.plane;
    [drawing.mode, drawing.shape] = ['draw', 'mask'];
    pointer.down({ x: 50, y: 50 }, { x: 0, y: 0 }, 0, false);
    pointer.move({ x: 80, y: 50 }, { x: 0, y: 0 });
    pointer.cancel();
    expect(changed(bench)).toHaveLength(1);
    pointer.move({ x: 200, y: 50 }, { x: 0, y: 0 });
    pointer.up({ x: 200, y: 50 }, 0);
    expect(changed(bench)).toHaveLength(1);
    bench.editor.undo();
    expect(bench.all()).toEqual([]);
  });
});

describe('what lies over the marks', () => {
  const over = (more: object = {}) => {
    const picked: string[] = [];
    const marks = [mark('S', [100, 100, 200, 150]), mark('T', [120, 110, 40, 40]), mark('U', [500, 300, 20, 20])];
    const overlays = [
      { name: 'suggestions', line: 'dashed' as const, marks, pick: (id: string) => void picked.push(id) },
      { name: 'earlier', line: 'dotted' as const, marks: [mark('E', [600, 10, 30, 30])] }
    ];
    return { ...picking({ marks: [mark('a', [400, 100, 50, 40])], overlays, ...more }), picked };
  };
  it('is picked by a press where nothing of one’s own lies, the smallest first', () => {
    const bench = over();
    bench.press(140, 130);
    bench.press(250, 200);
    bench.press(420, 120);
    expect([bench.picked, bench.hand.selected]).toEqual([['T', 'S'], 'a']);
    // what is only looked at, and an empty place, are nothing to pick
    bench.press(610, 20);
    bench.press(700, 400);
    expect(bench.picked).toEqual(['T', 'S']);
  });
  it('is told at the pointer', () => {
    const { plane } = over();
    const at = (x: number, y: number) => [plane.tool.tag({ x, y }).word, plane.tool.cursor({ x, y })];
    expect([at(140, 130), at(420, 120), at(610, 20)]).toEqual([
      ['look at', 'pointer'],
      ['pick', 'move'],
      ['pick', 'default']
    ]);
  });
  it('is not picked while it is hidden, nor by a drag that takes marks', () => {
    const bench = over();
    bench.drag([110, 90], [460, 180]);
    expect([bench.picked, bench.hand.selected]).toEqual([[], 'a']);
    bench.plane.show.over = false;
    bench.press(140, 130);
    expect(bench.picked).toEqual([]);
  });
});

describe('a point that neighbours share', () => {
  const left = mark('left', { kind: 'polygon', geometry: { rings: [[0, 0, 50, 0, 50, 50, 0, 50]] } }, { class: 'leaf' });
  const right = mark('right', { kind: 'polygon', geometry: { rings: [[50, 0, 100, 0, 100, 50, 50, 50]] } }, { class: 'leaf' });
  const both = (bench: ReturnType<typeof laid>) => geometries(bench).map((g) => (g as { rings: number[][] }).rings[0]);

  it('moves in all of them, as one step; so no gap opens', () => {
    const bench = picking({ marks: [left, right] });
    bench.hand.select('left');
    expect(bench.plane.tool.tag({ x: 50, y: 50 }).word).toBe('move point of 2');
    bench.drag([50, 50], [60, 58]);
    expect(both(bench)).toEqual([
      [0, 0, 50, 0, 60, 58, 0, 50],
      [50, 0, 100, 0, 100, 50, 60, 58]
    ]);
    bench.editor.undo();
    expect(both(bench)).toEqual([left.geometry, right.geometry].map((g) => (g as { rings: number[][] }).rings[0]));
  });
  it('moves by arrows too, and alone where that is switched off or the other is locked', () => {
    const bench = picking({ marks: [left, right] });
    bench.hand.select('left');
    bench.hand.point = 'v:0:1';
    bench.plane.nudge.add({ x: 3, y: 0 });
    bench.plane.nudge.end();
    expect(both(bench).map((ring) => ring![0])).toEqual([0, 53]);
    bench.drawing.together = false;
    bench.hand.point = 'v:0:1';
    bench.plane.nudge.add({ x: 3, y: 0 });
    bench.plane.nudge.end();
    expect([both(bench)[0]![2], both(bench)[1]![0]]).toEqual([56, 53]);
    const locked = picking({ marks: [left, right] });
    locked.hand.select('right');
    locked.hand.toggleLock();
    locked.hand.select('left');
    locked.drag([50, 50], [60, 58]);
    expect(both(locked)[1]).toEqual((right.geometry as { rings: number[][] }).rings[0]);
  });
});

describe('what is held by an arrow', () => {
  it('is one change of each mark and one step, however long it is held', () => {
    const marks = Array.from({ length: 3000 }, (_, i) => mark(`M${i}`, [i % 100, Math.floor(i / 100), 5, 5]));
    const bench = picking({ marks });
    bench.hand.take(bench.all());
    for (let i = 0; i < 40; i++) bench.plane.nudge.add({ x: 1, y: 0 });
    expect(bench.tray.entries).toHaveLength(0);
    expect((bench.plane.nudge.shown!.get('M3')!.geometry as { x: number }).x).toBe(43);
    bench.plane.nudge.end();
    expect(bench.tray.entries).toHaveLength(3000);
    expect((bench.editor.marks.get('M3')!.geometry as { x: number }).x).toBe(43);
    expect(bench.editor.undo()).toHaveLength(3000);
    expect(bench.editor.canUndo).toBe(false);
  });
  it('stops at the edge, and ends when something else comes into hand', () => {
    const bench = picking({ marks: [a, mark('b', [0, 0, 5, 5])] });
    bench.hand.select('a');
    for (let i = 0; i < 5; i++) bench.plane.nudge.add({ x: 100, y: 0 });
    bench.hand.select('b');
    expect(bench.plane.nudge.shown).toBeNull();
    expect(bench.editor.marks.get('a')!.geometry).toMatchObject({ x: 350 });
  });
});

describe('pins', () => {
  it('lie on the picture and know the mark beneath', () => {
    const bench = laid({ marks: [a], mode: 'review' });
    bench.drawing.mode = 'pin';
    bench.press(110, 110);
    bench.press(999, -5);
    expect(bench.pins).toEqual([
      { x: 110, y: 110, mark: 'a' },
      { x: 400, y: 0, mark: null }
    ]);
  });
  it('and a whole is pressed to say what the mark in hand is a part of', () => {
    const bench = laid({ marks: [a, mark('b', [0, 0, 50, 50])] });
    bench.hand.select('a');
    bench.drawing.mode = 'whole';
    expect(bench.plane.tool.tag({ x: 10, y: 10 }).word).toBe('part of Apple 2');
    bench.press(10, 10);
    expect([bench.editor.marks.get('a')!.part_of, bench.drawing.mode]).toEqual(['b', 'pick']);
  });
});

describe('what lies under the pointer', () => {
  it('is the mark whose edge is nearest before those one is inside of', () => {
    const { plane } = laid({ marks: [mark('around', [0, 0, 300, 300]), mark('edge', [100, 0, 100, 300])] });
    const at = (x: number, y: number) => markAt(plane.tools.at, { x, y })?.id;
    expect([at(102, 150), at(2, 150), at(390, 150)]).toEqual(['edge', 'around', undefined]);
  });
});
