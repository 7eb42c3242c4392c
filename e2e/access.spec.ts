import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, freeAll, StageHand, test } from './fixtures';
import { url } from './place';

/** For those who read or steer differently: every page in both themes, and every page without a mouse. */
const managed = ['', '/items?f=class:apple', '/sheet', '/describe', '/bring-in', '/hand-out', '/check', '/release', '/people'].map(
  (p) => `/p/1${p}`
);
const pages = ['/', ...managed, '/p/1/sweep', '/account', '/users', '/projects/new'];

test.beforeEach(() => void freeAll('demo'));

async function open(page: Page, path: string): Promise<void> {
  await page.goto(url('demo', path));
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.waitForLoadState('networkidle');
}

/** What axe calls serious or worse, in paper and in dusk. */
async function faults(page: Page, where: string): Promise<string[]> {
  const found: string[] = [];
  for (const theme of ['paper', 'dusk']) {
    await page.evaluate((to) => (document.documentElement.dataset.theme = to), theme);
    // what still fades has colours in between
    await page.evaluate(() => Promise.allSettled(document.getAnimations().map((moving) => moving.finished)));
    // the themes differ in colours alone
    const axe = new AxeBuilder({ page });
    for (const v of (await (theme === 'paper' ? axe : axe.withRules(['color-contrast'])).analyze()).violations)
      if (v.impact === 'serious' || v.impact === 'critical')
        found.push(`${where} in ${theme}: ${v.id} ${v.nodes.slice(0, 3).map((n) => n.target.join(' ')).join(', ')}`); // prettier-ignore
  }
  return found;
}

/**
 * Goes through a page by Tab until the focus is back at its beginning, and says what cannot be told by name, what does not show that it has the
 * focus, and what does not let go of it.
 */
async function tabbed(page: Page, where: string, most = 400): Promise<{ wrong: string[]; stops: number }> {
  const wrong: string[] = [];
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  let stops = 0;
  for (; stops < most; stops++) {
    await page.keyboard.press('Tab');
    const at = await page.evaluate(() => {
      const el = document.activeElement as HTMLElement | null;
      if (el === null || el === document.body) return null;
      const again = el.dataset.tabbed === 'yes';
      el.dataset.tabbed = 'yes';
      const style = getComputedStyle(el);
      const box = el.getBoundingClientRect();
      // a control laid invisibly over what it stands for shows its focus there
      const around = [el, el.parentElement, el.nextElementSibling].filter((e) => e !== null).map((e) => getComputedStyle(e!));
      return {
        again,
        what: `${el.tagName.toLowerCase()} ${(el.getAttribute('aria-label') ?? el.textContent ?? '').trim().slice(0, 40)}`,
        ring: around.some((s) => (s.outlineStyle !== 'none' && parseFloat(s.outlineWidth) > 0) || s.boxShadow !== 'none'),
        seen: box.width > 0 && box.height > 0 && style.visibility !== 'hidden'
      };
    });
    if (at === null || at.again) {
      if (at?.again && stops < 2) wrong.push(`${where}: the focus stays at ${at.what}`);
      break;
    }
    if (!at.ring) wrong.push(`${where}: nothing shows the focus at ${at.what}`);
    if (!at.seen) wrong.push(`${where}: the focus goes to ${at.what}, which is not to be seen`);
  }
  if (stops === most) wrong.push(`${where}: ${most} stops and no end`);
  return { wrong, stops };
}

/** A clip on the bench, with a track in hand. */
async function clip(page: Page): Promise<void> {
  freeAll('demo');
  await page.goto(url('demo', '/'));
  await page.getByRole('region', { name: 'my work in Row pass' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  await hand.pick(hand.marks.first());
}

test('no page has a serious fault, in either theme', async ({ person, anyone }) => {
  test.setTimeout(300_000);
  const found: string[] = [];
  for (const [at, path, heading] of [
    ['empty', '/setup', /./],
    ['demo', '/sign-in', /./],
    ['demo', '/join/not-an-invitation', /./],
    ['demo', '/password/not-a-link', /./]
  ] as const) {
    const page = await anyone(at);
    await page.goto(url(at, path));
    await expect(page.getByRole('heading', { name: heading }).first()).toBeVisible();
    await page.waitForLoadState('networkidle');
    found.push(...(await faults(page, path)));
  }
  const ines = await person('Ines Okafor');
  for (const path of pages) {
    await open(ines, path);
    found.push(...(await faults(ines, path)));
  }
  const ravi = await person('Ravi Sørby');
  found.push(...(await faults(ravi, 'my work of a labeller')));
  await ravi.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(ravi);
  await hand.shown();
  found.push(...(await faults(ravi, 'bench')));
  await ravi.keyboard.press('?');
  await expect(ravi.getByRole('dialog')).toBeVisible();
  found.push(...(await faults(ravi, 'key map')));
  await ravi.keyboard.press('Escape');
  await ravi.getByRole('button', { name: 'Handbook' }).click();
  found.push(...(await faults(ravi, 'bench with its handbook')));
  await clip(ravi);
  found.push(...(await faults(ravi, 'bench of a clip')));
  await ravi.keyboard.press('Escape');
  await ravi.keyboard.press('Escape');
  await ravi.keyboard.press('r');
  await ravi.keyboard.press('q');
  found.push(...(await faults(ravi, 'what is said of the frames of a clip')));
  expect(found).toEqual([]);
});

test('every page can be gone through by Tab, and shows where one is', async ({ person }) => {
  test.setTimeout(180_000);
  const wrong: string[] = [];
  const ines = await person('Ines Okafor');
  for (const path of pages) {
    await open(ines, path);
    const { wrong: here, stops } = await tabbed(ines, path);
    wrong.push(...here);
    expect(stops, `controls on ${path}`).toBeGreaterThan(4);
  }
  const ravi = await person('Ravi Sørby');
  await ravi.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  await new StageHand(ravi).shown();
  const { wrong: here, stops } = await tabbed(ravi, 'bench');
  wrong.push(...here);
  expect(stops).toBeGreaterThan(10);
  await clip(ravi);
  wrong.push(...(await tabbed(ravi, 'bench of a clip')).wrong);
  expect(wrong).toEqual([]);
});
