import type { Schemas } from '$lib/api/client';

type Settings = Schemas['User']['settings'];

/** How marks and picture are shown to one person, from item to item. */
export class Show {
  hidden = $state(false);
  /** of masks: all of them, and the one in hand */
  opacity = $state.raw({ all: 0.4, hand: 0.62 });
  /** how the picture is shown: 1 is as it is */
  tone = $state.raw({ brightness: 1, contrast: 1, gamma: 1 });
  /** everything but the mark in hand lies in shade */
  shade = $state(false);
  /** thickness of lines, 1 is as usual */
  weight = $state(1);
  /** classes are written at their marks */
  names = $state(false);
  /** the point being set is shown enlarged */
  loupe = $state(true);
  /** pixels nobody has labelled, or two have */
  coverage = $state(false);
  /** the second list of marks lies over the first */
  over = $state(true);

  take(own: Settings): void {
    this.opacity = { all: own.mask_opacity ?? this.opacity.all, hand: own.hand_opacity ?? this.opacity.hand };
    this.loupe = own.loupe ?? true;
    this.tone = { brightness: own.brightness ?? 1, contrast: own.contrast ?? 1, gamma: own.gamma ?? 1 };
    this.shade = own.shade_rest ?? false;
    this.weight = own.line_weight ?? 1;
    this.names = own.mark_names ?? false;
  }
  get settings(): Settings {
    return {
      mask_opacity: this.opacity.all,
      hand_opacity: this.opacity.hand,
      loupe: this.loupe,
      ...this.tone,
      shade_rest: this.shade,
      line_weight: this.weight,
      mark_names: this.names
    };
  }
  /** Of brightness, contrast and gamma, as a filter of the browser. */
  get filter(): string | undefined {
    const { brightness, contrast, gamma } = this.tone;
    const parts = [
      ...(brightness !== 1 ? [`brightness(${brightness})`] : []),
      ...(contrast !== 1 ? [`contrast(${contrast})`] : []),
      ...(gamma !== 1 ? ['url(#gamma)'] : [])
    ];
    return parts.length > 0 ? parts.join(' ') : undefined;
  }
}
