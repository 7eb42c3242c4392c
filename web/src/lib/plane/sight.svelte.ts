import type { Box, Point } from '$lib/words/mark';
import { fit, fitBox, isWhole, restaged, stepZoom, zoomAt, type Size, type View } from './view';

/** How a flat item lies on the stage. */
export class Sight {
  view = $state.raw<View>({ scale: 1, x: 0, y: 0 });
  stage = $state.raw<Size>({ width: 100, height: 100 });
  #fitted = false;
  /** the view to go back to from the whole picture */
  #closer: View | null = null;

  /** px of what lies on the stage */
  picture = $state.raw<Size>({ width: 1, height: 1 });

  constructor(picture: Size) {
    this.picture = picture;
  }
  /** Another picture is worked on that lies beside this one, in the same scale. @param view of it, so that nothing moves */
  turn(picture: Size, view: View): void {
    this.picture = picture;
    this.view = view;
    this.#closer = null;
  }

  resize(stage: Size): void {
    const was = this.stage;
    this.stage = stage;
    if (!this.#fitted) this.whole();
    // a stage that is hidden for a moment has no size to go by
    else if (stage.width > 100 && was.width > 100) this.view = restaged(this.view, this.picture, was, stage);
    else if (stage.width > 100) this.whole();
  }
  whole(): void {
    this.view = fit(this.picture, this.stage);
    this.#fitted = this.stage.width > 100;
    this.#closer = null;
  }
  /** The whole picture, and back to where one was: between two zooms. */
  toggle(): void {
    const now = this.view;
    if (!isWhole(now, this.picture, this.stage)) {
      this.view = fit(this.picture, this.stage);
      this.#closer = now;
    } else this.view = this.#closer ?? stepZoom(now, this.middle, 1, 1);
  }
  get middle(): Point {
    return { x: this.stage.width / 2, y: this.stage.height / 2 };
  }
  /** An object, about half the stage. */
  to(box: Box): void {
    this.view = fitBox(box, this.stage);
  }
  /** A place in the middle, at this zoom. */
  centre(p: Point): void {
    this.view = { ...this.view, x: this.stage.width / 2 - p.x * this.view.scale, y: this.stage.height / 2 - p.y * this.view.scale };
  }
  step(by: 1 | -1): void {
    this.view = stepZoom(this.view, this.middle, by);
  }
  zoom(at: Point, factor: number): void {
    this.view = zoomAt(this.view, at, factor);
  }
  pan(dx: number, dy: number): void {
    if (dx !== 0 || dy !== 0) this.view = { ...this.view, x: this.view.x + dx, y: this.view.y + dy };
  }
  /** The part of the picture on the stage and a rim round it. */
  part(view: View, rim: number): Box {
    const { scale, x, y } = view;
    return {
      x: (-x - rim) / scale,
      y: (-y - rim) / scale,
      width: (this.stage.width + 2 * rim) / scale,
      height: (this.stage.height + 2 * rim) / scale
    };
  }
}
