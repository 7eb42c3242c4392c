import { expect, freeAll, StageHand, test } from './fixtures';

test.beforeEach(() => void freeAll('demo'));

test('the tools of the bench by mouse and keys', async ({ person }) => {
  const mei = await person('Mei Castellan');
  await mei.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(mei);
  await hand.shown();
  await hand.clear();
  const near = (a: number[], b: number[]) => a.forEach((n, i) => expect(Math.abs(n - b[i]!)).toBeLessThan(1.5));

  // draw, then by two presses; the class stays in hand
  await mei.keyboard.press('0');
  await mei.keyboard.press('e');
  await hand.drag(200, 200, 300, 280);
  near(await hand.numbers(hand.marks.first()), [200, 200, 100, 80]);
  await hand.click(500, 400);
  await hand.click(620, 520);
  await expect(hand.marks).toHaveCount(2);
  near(await hand.numbers(hand.marks.nth(1)), [500, 400, 120, 120]);

  // each of the eight handles
  await mei.keyboard.press('q');
  await hand.click(250, 240);
  for (const [x, y, dx, dy, expected] of [
    [200, 200, -10, -10, [190, 190, 110, 90]],
    [245, 190, 0, 10, [190, 200, 110, 80]],
    [300, 200, 10, -10, [190, 190, 120, 90]],
    [310, 235, -20, 0, [190, 190, 100, 90]],
    [290, 280, 10, 10, [190, 190, 110, 100]],
    [245, 290, 0, -10, [190, 190, 110, 90]],
    [190, 280, 10, 10, [200, 190, 100, 100]],
    [200, 240, -10, 0, [190, 190, 110, 100]]
  ] as const) {
    await hand.drag(x, y, x + dx, y + dy);
    near(await hand.numbers(hand.marks.first()), [...expected]);
  }
  // move, but never past the edge
  await hand.drag(250, 240, 30, 240);
  near(await hand.numbers(hand.marks.first()), [0, 190, 110, 100]);
  await mei.keyboard.press('ArrowRight');
  near(await hand.numbers(hand.marks.first()), [1, 190, 110, 100]);

  // duplicate, class, remove, undo all, redo
  await mei.keyboard.press('a');
  await expect(hand.marks).toHaveCount(3);
  await mei.keyboard.press('1');
  await expect(mei.getByRole('listitem', { name: /^Apple 1/ })).toBeVisible();
  await mei.keyboard.press('Delete');
  await expect(hand.marks).toHaveCount(2);
  for (let i = 0; i < 3; i++) await mei.keyboard.press('Control+z');
  await expect(hand.marks).toHaveCount(2);
  await mei.keyboard.press('Control+Shift+z');
  await expect(hand.marks).toHaveCount(3);
  await mei.keyboard.press('Control+z');

  // zoom at the pointer, to the object, fit; hide; the map of keys
  const place = await hand.at(560, 460);
  await mei.mouse.move(place.x, place.y);
  await mei.mouse.wheel(0, -400);
  await expect.poll(async () => Math.abs((await hand.at(560, 460)).x - place.x)).toBeLessThan(1.5);
  await hand.click(560, 460);
  await mei.keyboard.press('x');
  await mei.keyboard.press('z');
  await mei.keyboard.press('t');
  await expect(mei.getByRole('toolbar').getByRole('button', { name: /show/ })).toBeVisible();
  await mei.keyboard.press('t');
  await mei.keyboard.press('?');
  await expect(mei.getByRole('dialog', { name: 'key map' })).toContainText('nudge');
  await mei.keyboard.press('Escape');

  // all of it was saved as it stands
  await hand.saved();
  const shown = await Promise.all([0, 1].map(async (i) => hand.numbers(hand.marks.nth(i))));
  await mei.reload();
  await hand.shown();
  expect(await Promise.all([0, 1].map(async (i) => hand.numbers(hand.marks.nth(i))))).toEqual(shown);

  // the handbook opens beside the work, at the class in hand, and is searchable
  await mei.getByRole('button', { name: 'Handbook' }).click();
  const book = mei.getByRole('complementary', { name: 'handbook' });
  await expect(book).toContainText('Canopy walk: how we label');
  await book.getByLabel('search the handbook').pressSequentially('scab');
  await expect(book.locator('mark').first()).toBeVisible();

  // submit opens the next item at once; it can be taken back
  await mei.getByRole('button', { name: 'close the handbook' }).click();
  // what is asked of the picture as a whole, by keys: its page, the question, yes; then a tag that excludes another
  const picture = mei.getByRole('region', { name: 'the picture as a whole' });
  // the yes opens the next question, which is written: once Esc to leave its field, once to leave the question
  for (const key of ['Escape', 'r', 'q', 'q', 'Escape', 'Escape', 'a', 'd', 'Escape']) await mei.keyboard.press(key);
  await expect(picture.getByRole('button', { name: /Usable picture/ })).toContainText('yes');
  await expect(picture.getByRole('button', { name: 'Flat light' })).toHaveAttribute('aria-pressed', 'true');
  await expect(picture.getByRole('button', { name: 'Backlit' })).toHaveAttribute('aria-pressed', 'false');
  const name = await mei.locator('.crumbs strong').textContent();
  await hand.ready();
  await mei.keyboard.press('s');
  await expect(mei.locator('.crumbs strong')).not.toHaveText(name!);
  await hand.shown();
  await mei.keyboard.press('g');
  await expect(mei.locator('.crumbs strong')).toHaveText(name!);
  await expect(hand.marks).toHaveCount(2);
});

test('a manager sees real counts and narrows them, with the filter in the address', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.getByRole('link', { name: 'Canopy walk' }).click();
  await ines.getByRole('navigation', { name: 'places' }).getByRole('link', { name: 'Items' }).click();
  const found = ines.getByRole('status', { name: 'found' });
  await expect(found).toHaveText('16 items');
  await expect(ines.getByRole('application', { name: /field map of 16 items/ })).toBeVisible();
  const stack = ines.getByRole('group', { name: 'filter' });
  const add = async (not: boolean, about: string, which: string, typed = false) => {
    await stack.getByRole('button', { name: 'condition' }).click();
    await stack.getByLabel('about').selectOption(about);
    await stack.getByLabel('is or is not').selectOption(String(not));
    if (typed) await stack.getByLabel('which').fill(which);
    else await stack.getByLabel('which').selectOption(which);
    await stack.getByRole('button', { name: 'Add', exact: true }).click();
  };
  await add(true, 'set', 'nursery');
  await expect(found).toHaveText('12 of 16 items');
  await add(false, 're', '-1(07|14)\\.jpg$', true);
  await expect(found).toHaveText('6 of 16 items');
  await expect(stack.getByLabel('left after: not: set is nursery')).toHaveText('12');
  expect(new URL(ines.url()).searchParams.getAll('f')).toEqual(['-set:nursery', 're:-1(07|14)\\.jpg$']);
  await ines.reload();
  await expect(found).toHaveText('6 of 16 items');
  await add(false, 're', '(', true);
  await expect(ines.getByRole('alert')).toContainText('regular expression');
  await stack
    .getByRole('button', { name: /^drop: .*\(”/ })
    .last()
    .click();
  await expect(found).toHaveText('6 of 16 items');
  // by keys over the map, and onto the bench and back
  await ines.getByRole('application').focus();
  await ines.keyboard.press('ArrowRight');
  await expect(ines.getByRole('region', { name: 'picked item' })).toContainText('north-terrace-107.jpg');
  await ines.keyboard.press('Enter');
  await expect(ines.getByRole('application', { name: /^picture north-terrace-107/ })).toBeVisible();
  await ines.getByRole('link', { name: 'back to the list' }).click();
  await expect(found).toHaveText('6 of 16 items');
});
