import type { Size, View } from '../view';

/**
 * A canvas over the stage. It is drawn with a rim round what is shown and then only moved and scaled as a whole while the view changes; it is
 * drawn sharp again when that has come to rest. A frame of panning is then no work to speak of, whatever lies on the picture.
 */
export class Layer {
  /** the view it was last drawn for */
  drawn: View | null = null;

  constructor(
    readonly canvas: HTMLCanvasElement,
    readonly rim = 0
  ) {}

  /** Ready to be drawn on anew, in px of the stage. */
  begin(view: View, stage: Size): CanvasRenderingContext2D {
    const ratio = devicePixelRatio;
    const { canvas, rim } = this;
    const [w, h] = [Math.round((stage.width + 2 * rim) * ratio), Math.round((stage.height + 2 * rim) * ratio)];
    if (canvas.width !== w || canvas.height !== h) {
      [canvas.width, canvas.height] = [w, h];
      [canvas.style.width, canvas.style.height] = [`${stage.width + 2 * rim}px`, `${stage.height + 2 * rim}px`];
      canvas.style.left = canvas.style.top = `${-rim}px`;
    }
    const c = canvas.getContext('2d')!;
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.clearRect(0, 0, w, h);
    c.setTransform(ratio, 0, 0, ratio, rim * ratio, rim * ratio);
    this.drawn = view;
    canvas.style.transform = '';
    return c;
  }
  /** As it was last drawn, to draw a part of it anew. */
  again(): CanvasRenderingContext2D {
    const c = this.canvas.getContext('2d')!;
    const ratio = devicePixelRatio;
    c.setTransform(ratio, 0, 0, ratio, this.rim * ratio, this.rim * ratio);
    return c;
  }
  /** Moves and scales what is drawn to where it belongs in another view. */
  follow({ scale, x, y }: View): void {
    const was = this.drawn;
    if (was === null) return;
    const by = scale / was.scale;
    const same = by === 1 && was.x === x && was.y === y;
    this.canvas.style.transform = same
      ? ''
      : `translate(${x - by * (was.x + this.rim) + this.rim}px, ${y - by * (was.y + this.rim) + this.rim}px) scale(${by})`;
  }
}
