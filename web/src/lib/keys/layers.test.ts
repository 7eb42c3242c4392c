// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { keepFocus, press, release, type Keys, type Layer } from './layers';

let did: string[];
let top: Layer;
let base: Layer;
let field: HTMLElement | null;
let keys: Keys;
const html = (text: string) => {
  document.body.innerHTML = text;
  return (id: string) => document.getElementById(id)!;
};
beforeEach(() => {
  did = [];
  field = null;
  const layer = (name: string, takes: string[]): Layer => ({
    press: (e) => {
      if (!takes.includes(e.code)) return false;
      did.push(`${name} ${e.code}`);
      return true;
    },
    escape: () => {
      if (!takes.includes('Escape')) return false;
      did.push(`${name} leaves`);
      return true;
    }
  });
  top = { ...layer('top', ['KeyX']), field: () => field };
  base = layer('base', ['KeyX', 'Space', 'Enter', 'Escape', 'ArrowLeft', 'KeyZ']);
  keys = {
    layers: [top, base],
    caps: () => [
      { code: 'KeyA', word: 'accept', press: () => did.push('accept') },
      { code: 'KeyS', word: 'submit', off: 'not now', press: () => did.push('submit') },
      { code: 'KeyB', word: 'on', again: true, press: () => did.push('on') }
    ],
    bound: () => ({}),
    say: (message) => did.push(message)
  };
  // jsdom knows no :modal
  vi.spyOn(document, 'querySelector').mockImplementation((s) =>
    s.includes(':modal') ? null : Document.prototype.querySelector.call(document, s)
  );
});
/** A key on an element, as the browser tells it; @returns whether the browser was left to do its own */
const hit = (code: string, on: Element = document.body, more: KeyboardEventInit = {}): boolean => {
  const key = more.key ?? (/^Key/.test(code) ? code.slice(3).toLowerCase() : code === 'Space' ? ' ' : code);
  const e = new KeyboardEvent('keydown', { code, key, bubbles: true, cancelable: true, ...more });
  Object.defineProperty(e, 'target', { value: on });
  press(e, keys);
  return !e.defaultPrevented;
};

describe('a key', () => {
  it('is for the topmost layer that takes it, else for the deck', () => {
    hit('KeyX');
    hit('KeyA');
    hit('KeyS');
    hit('KeyQ');
    expect(did).toEqual(['top KeyX', 'accept', 'submit: not now']);
  });
  it('goes on by being held only where that is meant', () => {
    hit('KeyA', document.body, { repeat: true });
    hit('KeyB', document.body, { repeat: true });
    expect(did).toEqual(['on']);
  });
  it('steps back one level, from the top', () => {
    hit('Escape');
    expect(did).toEqual(['base leaves']);
    top.escape = () => did.push('top leaves') > 0;
    hit('Escape');
    expect(did).toEqual(['base leaves', 'top leaves']);
  });
  it('with Ctrl is for the layers, never for the deck', () => {
    expect(hit('KeyA', document.body, { ctrlKey: true })).toBe(true);
    hit('KeyZ', document.body, { ctrlKey: true });
    expect(did).toEqual(['base KeyZ']);
  });
  it('that puts a word together is for the input method', () => {
    hit('KeyA', document.body, { isComposing: true });
    expect(did).toEqual([]);
  });
});

describe('a field of text', () => {
  it('keeps every key but Esc, which leaves it', () => {
    const at = html('<input id="filter"><textarea id="text"></textarea><select id="list"></select>');
    for (const id of ['filter', 'text', 'list'])
      for (const code of ['KeyA', 'KeyS', 'Space', 'Enter', 'ArrowLeft', 'Delete']) expect(hit(code, at(id))).toBe(true);
    expect(did).toEqual([]);
    at('filter').focus();
    hit('Escape', at('filter'));
    expect([did, document.activeElement]).toEqual([[], document.body]);
  });
  it('that is open takes what is typed wherever the focus is, and no letter acts', () => {
    const at = html('<div id="stage" tabindex="0"></div><input id="pin">');
    field = at('pin');
    for (const [code, key] of [
      ['KeyA', 'a'],
      ['Slash', '/'],
      ['KeyS', 'S'],
      ['Space', ' '],
      ['Enter', 'Enter'],
      ['Backspace', 'Backspace']
    ]) {
      at('stage').focus();
      expect(hit(code!, at('stage'), { key: key! })).toBe(true);
      expect(document.activeElement).toBe(field);
    }
    expect(did).toEqual([]);
    hit('Escape', field);
    expect(did).toEqual(['base leaves']);
  });
});

describe('a focused control', () => {
  it('has Enter and Space for itself, and lets letters through to the deck', () => {
    const at = html('<button id="button">x</button><a id="link" href="/x">y</a><input id="check" type="checkbox">');
    expect([hit('Enter', at('button')), hit('Space', at('button')), hit('Enter', at('link')), hit('Space', at('check'))]).toEqual([
      true,
      true,
      true,
      true
    ]);
    expect(did).toEqual([]);
    hit('Space', at('link'));
    hit('KeyA', at('button'));
    hit('KeyA', at('check'));
    expect(did).toEqual(['base Space', 'accept', 'accept']);
  });
  it('a slider moves by arrows, and does not mute the deck', () => {
    const at = html('<input id="slider" type="range">');
    expect(hit('ArrowLeft', at('slider'))).toBe(true);
    hit('KeyA', at('slider'));
    hit('Space', at('slider'));
    expect(did).toEqual(['accept', 'base Space']);
  });
  it('is left by Tab, as the stage is', () => {
    const at = html('<div id="stage" tabindex="0"></div>');
    base.press = () => did.push('taken') > 0;
    expect(hit('Tab', at('stage'))).toBe(true);
    expect(did).toEqual([]);
  });
});

describe('the focus', () => {
  it('stays on the stage when a button of the bench is pressed, and goes where it belongs in a form', () => {
    const at = html('<div id="stage" tabindex="0"></div><button id="cap">x</button><form><button id="send">y</button></form>');
    const down = (id: string) => {
      const e = new MouseEvent('mousedown', { bubbles: true, cancelable: true });
      Object.defineProperty(e, 'target', { value: at(id) });
      keepFocus(e, () => at('stage'));
      return e.defaultPrevented;
    };
    expect([down('cap'), document.activeElement]).toEqual([true, at('stage')]);
    expect(down('send')).toBe(false);
  });
  it('a key that is let go is told to every layer', () => {
    const heard = vi.fn();
    base.release = top.release = heard;
    release(new KeyboardEvent('keyup', { code: 'Space' }), keys);
    expect(heard).toHaveBeenCalledTimes(2);
  });
});
