import { expect, test, type Page } from '@playwright/test';
import { StageHand } from './fixtures';

const shot = (page: Page, name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` });

async function as(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name }).click();
  await expect(page.getByRole('heading', { name: /^Hello/ })).toBeVisible();
  await page.waitForLoadState('networkidle');
}

test('what the manager sees', async ({ page }) => {
  await as(page, 'Ines Okafor');
  for (const [name, path] of [
    ['progress', ''],
    ['describe', '/describe'],
    ['bring-in', '/bring-in'],
    ['hand-out', '/hand-out'],
    ['release', '/release']
  ]) {
    await page.goto(`/p/1${path}`);
    await page.waitForLoadState('networkidle');
    if (name === 'hand-out') await page.getByRole('button', { name: 'to which labellers' }).click();
    if (name === 'describe') await page.getByRole('button', { name: 'Apple', expanded: false }).first().click();
    await page.waitForTimeout(500);
    await shot(page, name!);
  }
});

test('all objects of a class, the odd ones first', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/1/sheet?class=apple');
  // the worker looks at what is new first
  await expect(
    page
      .getByRole('listbox', { name: 'objects' })
      .getByRole('option', { name: /oddness/ })
      .first()
  ).toBeVisible({ timeout: 60_000 });
  await page.getByRole('listbox', { name: 'objects' }).focus();
  for (const key of ['ArrowRight', 'Space', 'ArrowRight', 'Space', 'ArrowDown']) await page.keyboard.press(key);
  // crops are made when they are first asked for
  await page.waitForTimeout(8_000);
  await page.waitForLoadState('networkidle');
  await shot(page, 'contact-sheet');
});

test('one question over many objects', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/1/sweep?ask=q:ripeness&answer=');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByRole('status', { name: 'progress' })).toContainText('0 of');
  for (let i = 0; i < 5; i++) await page.keyboard.press('v');
  await page.waitForTimeout(900);
  await shot(page, 'answer-sweep');
});

test('items on the field map, with conditions stacked', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto(
    `/p/1/items?${new URLSearchParams([
      ['f', 'class:scab'],
      ['f', 're:(north|slope).*[1-5]\\.jpg$'],
      ['f', '-state:returned']
    ])}`
  );
  await expect(page.getByRole('status', { name: 'found' })).toContainText('of 60');
  await page.getByRole('application', { name: /field map/ }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('region', { name: 'picked item' })).toBeVisible();
  await page.waitForTimeout(500);
  await shot(page, 'field-map');
});

test('two versions of a prompt side by side with what is accepted', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/4/help/prompts');
  await page.getByLabel('held against').selectOption({ index: 1 });
  await page.getByRole('region', { name: 'gain' }).getByRole('link').nth(1).click();
  await expect(page.getByRole('status', { name: 'difference' })).toContainText('1 of');
  for (const key of ['s', 's']) await page.keyboard.press(key);
  await page.waitForLoadState('networkidle');
  await page.waitForTimeout(500);
  await shot(page, 'prompt');
});

test('models asked for help', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/2/help');
  await page.waitForLoadState('networkidle');
  await page.getByRole('button', { name: 'Try it on 4' }).click();
  await expect(page.getByText(/suggested on 4 items/)).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: /^skeletons .*items/ }).click();
  await page.waitForTimeout(900);
  await shot(page, 'help');
});

test('what the labeller sees', async ({ page }) => {
  await as(page, 'Ravi Sørby');
  await shot(page, 'my-work');
  await page.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  // what came back is open, with its pins and marks
  await page.mouse.move(300, 200);
  await page.waitForTimeout(700);
  await shot(page, 'bench');
});

test('what the reviewer sees', async ({ page }) => {
  await as(page, 'Tobias Lindqvist');
  await page.goto('/p/1/check');
  await page.waitForLoadState('networkidle');
  await shot(page, 'check');
  await page.getByRole('link', { name: 'Open' }).first().click();
  await new StageHand(page).shown();
  await page.waitForTimeout(700);
  await shot(page, 'review');
});

test('a clip: tracks, answers that switch, a stretch', async ({ page }) => {
  await as(page, 'Ravi Sørby');
  await page.getByRole('region', { name: 'my work in Row pass' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  const goTo = async (frame: number) => {
    await page.keyboard.press('t');
    await page.keyboard.press('e');
    await page.getByRole('textbox', { name: 'frame or time' }).pressSequentially(String(frame));
    await page.keyboard.press('Enter');
    await expect(page.getByRole('slider', { name: 'frame' })).toHaveAttribute('aria-valuenow', String(frame));
  };
  await goTo(101);
  await page.keyboard.press('q');
  await hand.pick(hand.marks.nth(1));
  await page.waitForTimeout(700);
  await shot(page, 'clip');
});

test('a text: spans, relations, words that were marked before', async ({ page }) => {
  await as(page, 'Mei Castellan');
  await page.getByRole('region', { name: 'my work in Scout notes' }).getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByRole('application', { name: /^text / })).toBeVisible();
  await page.waitForTimeout(900);
  // two of what is offered are right
  await page.keyboard.press('a');
  await page.keyboard.press('a');
  await page.waitForTimeout(600);
  await shot(page, 'text');
});

test('a document: pages, a box that went close around what is offered as its answer', async ({ page }) => {
  await as(page, 'Mei Castellan');
  await page.getByRole('region', { name: 'my work in Bin tickets' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  const pages = page.getByRole('navigation', { name: 'pages' });
  await page.keyboard.press('r');
  for (const key of ['q', 'q', 'x', 'q', 'w', 'x', 'q', 'w', 'z']) {
    await page.keyboard.press(key);
    await page.waitForTimeout(150);
  }
  await page.keyboard.press('r');
  await expect(pages.locator('[aria-current]')).toHaveAccessibleName(/^page 2/);
  await page.keyboard.press('t');
  await page.keyboard.press('t');
  await page.keyboard.press('e');
  for (const line of [0, 1, 2, 3]) {
    await hand.drag(62, 193 + 64.5 * line, 650, 232 + 64.5 * line);
    await expect(page.getByRole('textbox', { name: 'What is written' })).toHaveValue(/kg/, { timeout: 20_000 });
    if (line === 3) break;
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
  }
  await page.waitForTimeout(700);
  await shot(page, 'document');
});

test('a volume: three planes in line, a region grown and smoothed, the object as a body', async ({ page }) => {
  await as(page, 'Ravi Sørby');
  await page.getByRole('region', { name: 'my work in Fruit CT' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  await page.keyboard.press('Escape');
  await page.keyboard.press('2');
  // the planes meet in the bruise, and it is grown from there
  const at = await hand.at(55.5, 83.5);
  await page.keyboard.down('Alt');
  await page.mouse.click(at.x, at.y);
  await page.keyboard.up('Alt');
  await page.keyboard.press('b');
  await page.keyboard.press('a');
  await hand.click(55.5, 83.5);
  const grow = page.getByRole('status', { name: 'grow' });
  await expect(grow).toContainText('Enter takes it');
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press('d');
    await page.waitForTimeout(700);
  }
  await page.keyboard.press('Enter');
  await expect(hand.marks).toHaveCount(1);
  await page.keyboard.press('b');
  await page.keyboard.press('d');
  await hand.saved();
  await page.waitForTimeout(1500);
  await shot(page, 'volume');
});

test('a cloud: points by height, cuboids fitted to a drag, the three views of the one in hand', async ({ page }) => {
  await as(page, 'Mei Castellan');
  await page.getByRole('region', { name: 'my work in Row scan' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  await hand.clear();
  await page.keyboard.press('w');
  const stage = page.getByRole('application');
  await expect(stage).toHaveAccessibleDescription(/shown from above/);
  /** a drag over a part of the ground, in metres */
  const over = async (x0: number, y0: number, x1: number, y1: number) => {
    const words = (await page.locator('#stage-view').textContent())!;
    const [left, top, metre] = [...words.matchAll(/-?\d+\.\d+/g)].map((m) => Number(m[0])) as [number, number, number];
    const box = (await stage.boundingBox())!;
    const at = (x: number, y: number) => [box.x + (x - left) * metre, box.y + (top - y) * metre] as const;
    await page.mouse.move(...at(x0, y0));
    await page.mouse.down();
    await page.mouse.move(...at((x0 + x1) / 2, (y0 + y1) / 2), { steps: 3 });
    await page.mouse.move(...at(x1, y1), { steps: 3 });
    await page.mouse.up();
  };
  for (const [n, [key, ...drag]] of (
    [
      ['2', 5.5, -0.55, 7.7, 1.0],
      ['1', 6.0, -2.2, 7.6, -0.75],
      ['1', 2.75, 0.95, 4.3, 2.25]
    ] as const
  ).entries()) {
    await page.keyboard.press('Escape');
    await page.keyboard.press('q');
    await page.keyboard.press('e');
    await page.keyboard.press(key);
    await over(...drag);
    await expect(hand.marks).toHaveCount(n + 1);
  }
  await page.keyboard.press('q');
  // past the picture of the camera, back into space
  await page.keyboard.press('w');
  await page.keyboard.press('w');
  const box = (await stage.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.42);
  for (let i = 0; i < 4; i++) {
    await page.mouse.wheel(0, -240);
    await page.waitForTimeout(60);
  }
  await hand.saved();
  await page.mouse.move(640, 780);
  await page.waitForTimeout(900);
  await shot(page, 'cloud');
});
