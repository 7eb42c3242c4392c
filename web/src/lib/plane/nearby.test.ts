import { describe, expect, it } from 'vitest';
import { mark } from '../../test/plane';
import { Marks } from '../edits/marks.svelte';
import { Nearby } from './nearby';
import { bounds, shapeOf } from './shapes';

describe('which marks lie where', () => {
  it('is what looking at every mark says, whatever was changed, also many at once', () => {
    let seed = 17;
    const random = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
    const any = (id: string) => mark(id, [random(300), random(200), 1 + random(60), 1 + random(60)]);
    const marks = new Marks(Array.from({ length: 200 }, (_, i) => any(`M${i}`)));
    const nearby = new Nearby(marks);
    for (let round = 0; round < 120; round++) {
      const n = round % 20 === 0 ? 150 : 1 + random(4);
      const ids = new Set(Array.from({ length: n }, () => `M${random(260)}`));
      marks.put([...ids].map((id) => ({ id, mark: random(3) === 0 ? null : any(id) })));
      const box = { x: random(300), y: random(200), width: random(120), height: random(120) };
      const meets = marks.all().filter((m) => {
        const b = bounds(shapeOf(m));
        return b.x <= box.x + box.width && b.x + b.width >= box.x && b.y <= box.y + box.height && b.y + b.height >= box.y;
      });
      expect(new Set(nearby.find(box).map((m) => m.id))).toEqual(new Set(meets.map((m) => m.id)));
    }
    nearby.close();
    marks.replace([]);
    expect(nearby.find({ x: 0, y: 0, width: 999, height: 999 }).length).toBeGreaterThan(0);
  });
});
