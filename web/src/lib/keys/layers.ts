import type { Cap } from './caps';
import { placeOf, type Bindings } from './bindings';

/**
 * What keys do, in layers: the topmost first (an open form, a kind's surface, the shell). A layer says what it takes; what no layer takes is
 * looked for on the deck.
 */
export interface Layer {
  /** steps back by one; false when there is nothing to step back from here */
  escape?(): boolean;
  /** does what the key means here; false when it means nothing */
  press?(e: KeyboardEvent): boolean;
  release?(e: KeyboardEvent): void;
  /** a field of text that is open: what is typed is for it, wherever the focus is */
  field?(): HTMLElement | null;
}

export type Keys = {
  layers: readonly Layer[];
  caps: () => readonly Cap[];
  bound: () => Bindings;
  /** says why a cap can't be used now */
  say: (message: string) => void;
};

/** Kinds of input that take letters; the others are controls with a few keys of their own. */
const CONTROLS = new Set(['button', 'checkbox', 'color', 'file', 'image', 'radio', 'range', 'reset', 'submit']);

/** Whether what is typed on an element is text for it. */
export function isField(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !CONTROLS.has(target.type);
  return (
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLElement && target.isContentEditable)
  );
}

/** Whether a key is the focused control's own: it acts on that, never on the bench. Letters and digits never are. */
export function isOwn(target: EventTarget | null, code: string): boolean {
  if (!(target instanceof Element)) return false;
  const control = target.closest('button, a[href], summary, input, [role="slider"]');
  if (control === null) return false;
  if (code === 'Enter' || code === 'NumpadEnter') return !(control instanceof HTMLInputElement);
  if (code === 'Space') return control.tagName !== 'A' && !(control instanceof HTMLInputElement && control.type === 'range');
  const slides = control instanceof HTMLInputElement && ['range', 'radio'].includes(control.type);
  return slides && /^(Arrow|Home|End|Page)/.test(code);
}

/** Whether a key would write something. */
const writes = (e: KeyboardEvent): boolean => e.key.length === 1 && !e.ctrlKey && !e.metaKey;

/** A key goes down. What it does here it does not do in the browser. */
export function press(e: KeyboardEvent, { layers, caps, bound, say }: Keys): void {
  // the browser's own dialogs keep their keys, and so does a word that is being put together by an input method
  if (e.isComposing || e.defaultPrevented || document.querySelector('dialog[open]:modal') !== null) return;
  if (e.code === 'Tab') return;
  if (e.code === 'Escape') {
    const field = layers.map((l) => l.field?.() ?? null).find((f) => f !== null);
    const target = e.target as HTMLElement;
    // a field of its own (a filter) is only left; one a layer has opened goes with the layer
    if (isField(target) && target !== field) target.blur();
    else layers.some((l) => l.escape?.() ?? false);
    return e.preventDefault();
  }
  if (isField(e.target)) return;
  const field = layers.map((l) => l.field?.() ?? null).find((f) => f !== null);
  if (field) {
    if (writes(e) || ['Enter', 'Backspace', 'Delete'].includes(e.code)) {
      // the key goes on to the field, which has the focus from now on
      field.focus();
      return;
    }
  } else if (!e.ctrlKey && !e.metaKey && isOwn(e.target, e.code)) return;
  if (layers.some((l) => l.press?.(e) ?? false)) return e.preventDefault();
  if (field || e.ctrlKey || e.metaKey || e.altKey) return;
  const code = placeOf(e.code, bound());
  const cap = caps().find((c) => c.code === code);
  if (!cap) return;
  e.preventDefault();
  if (e.repeat && !cap.again) return;
  if (cap.off) say(`${cap.word}: ${cap.off}`);
  else cap.press();
}

export function release(e: KeyboardEvent, { layers }: Keys): void {
  for (const layer of layers) layer.release?.(e);
}

/**
 * A press on a button of the bench acts, but leaves the focus where the keys are wanted: on the stage. Without this the next Space would press
 * the button again.
 */
export function keepFocus(e: MouseEvent, stage: () => HTMLElement | null): void {
  const button = e.target instanceof Element ? e.target.closest('button') : null;
  if (button === null || button.closest('form, dialog, [data-keeps-focus]') !== null) return;
  e.preventDefault();
  if (document.activeElement !== stage()) stage()?.focus({ preventScroll: true });
}
