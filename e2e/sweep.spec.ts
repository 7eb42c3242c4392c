import { expect, sql, test } from './fixtures';
import { url } from './place';

test('a sweep of thirty answers by keys only', async ({ person }) => {
  // 31 apples of one block have not been asked yet
  const some = `select marks.id from marks join items on items.id = marks.item_id where items.path like 'old wall/%' and marks.class = 'apple' and marks.deleted_at is null and marks.layer = 'agreed' order by items.path, marks.id limit 31`;
  const ids = (JSON.parse(sql('demo', some)) as { id: string }[]).map((r) => r.id);
  expect(ids).toHaveLength(31);
  sql('demo', `update marks set answers = json_remove(answers, '$.ripeness') where id in (${some})`);

  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/p/1/sweep?ask=q:ripeness'));
  await expect(ines.getByRole('status', { name: 'how many' })).toContainText('31 objects');
  await ines.getByRole('button', { name: 'Begin' }).focus();
  await ines.keyboard.press('Enter');
  const progress = ines.getByRole('status', { name: 'progress' });
  await expect(progress).toHaveText('0 of 31');
  await expect(ines.getByRole('toolbar', { name: 'deck' }).getByRole('button', { name: 'Turning' })).toBeVisible();

  // one slip, taken back: the same object is asked once more
  const stage = ines.getByRole('img', { name: /^Apple on/ });
  const first = await stage.getAttribute('aria-label');
  await ines.keyboard.press('q');
  await expect(progress).toHaveText('1 of 31');
  await ines.keyboard.press('Control+z');
  await expect(progress).toHaveText('0 of 31');
  await expect(stage).toHaveAttribute('aria-label', first!);

  const keys = ['q', 'w', 'e'];
  for (let n = 0; n < 15; n++) await ines.keyboard.press(keys[n % 3]!);
  await ines.keyboard.press('v'); // this one is left open
  await expect(progress).toHaveText('16 of 31, 1 skipped');
  // the network dies for a while; nobody has to wait
  await ines.context().setOffline(true);
  for (let n = 15; n < 25; n++) await ines.keyboard.press(keys[n % 3]!);
  await expect(ines.getByRole('status', { name: 'saved state' })).toContainText('waiting');
  await ines.context().setOffline(false);
  for (let n = 25; n < 30; n++) await ines.keyboard.press(keys[n % 3]!);
  await expect(ines.getByRole('heading', { name: 'Done' })).toBeVisible();
  await expect(ines.getByText('30 answers in')).toBeVisible();
  await expect(ines.getByText('1 skipped and left open')).toBeVisible();

  const answers = (): (string | null)[] =>
    (
      JSON.parse(
        sql('demo', `select id, json_extract(answers, '$.ripeness.value') as v from marks where id in ('${ids.join("','")}')`)
      ) as { id: string; v: string | null }[]
    )
      .sort((a, b) => ids.indexOf(a.id) - ids.indexOf(b.id))
      .map((r) => r.v);
  const words = ['green', 'turning', 'ripe'];
  const expected = Array.from({ length: 31 }, (_, i) => (i === 15 ? null : words[(i < 15 ? i : i - 1) % 3]!));
  await expect.poll(answers).toEqual(expected);

  // what was skipped is all that is left, and a reload in the middle of it comes back to it
  await ines.getByRole('button', { name: 'Go through what is open' }).click();
  await expect(progress).toHaveText('0 of 1');
  await expect(ines).toHaveURL(/go=1/);
  await ines.reload();
  await expect(progress).toHaveText('0 of 1');
  await ines.keyboard.press('x');
  await expect(ines.getByRole('heading', { name: 'Done' })).toBeVisible();
  await expect
    .poll(() => sql('demo', `select json_extract(answers, '$.ripeness.no_value') as v from marks where id = '${ids[15]}'`))
    .toContain('unsure');
});

test('tags over pictures, a key each', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', '/p/1/sweep?ask=g:light&set=nursery'));
  await expect(ines.getByRole('status', { name: 'how many' })).toContainText(/\d+ pictures/);
  const count = Number((await ines.getByRole('status', { name: 'how many' }).textContent())!.match(/\d+/)![0]);
  expect(count).toBeGreaterThan(3);
  await ines.getByRole('button', { name: 'Begin' }).click();
  await expect(ines.getByRole('status', { name: 'progress' })).toHaveText(`0 of ${count}`);
  for (let n = 0; n < count; n++) await ines.keyboard.press('e');
  await expect(ines.getByRole('heading', { name: 'Done' })).toBeVisible();
  await expect
    .poll(() =>
      sql(
        'demo',
        `select count(*) as n from layers join items on items.id = layers.item_id where items.path like 'nursery/%' and layers.tags like '%low_sun%'`
      )
    )
    .toContain(`"n":${count}`);
});

test('a wrong class stands out on the contact sheet, is put right there, and the bench comes back to the spot', async ({ person }) => {
  test.setTimeout(120_000);
  const ines = await person('Ines Okafor');
  // a slip: an apple far down the list is called too blurred
  await ines.goto(url('demo', '/p/1/sheet?class=apple&sort=item'));
  const table = ines.getByRole('listbox', { name: 'objects' });
  await expect(ines.getByRole('status').filter({ hasText: /\d+ objects/ })).toBeVisible();
  await table.focus();
  for (let n = 0; n < 9; n++) await ines.keyboard.press('ArrowDown');
  const here = async (): Promise<string> => (await table.getAttribute('aria-activedescendant'))!;
  await expect(table).toHaveAttribute('aria-activedescendant', /^object-/);
  const slip = await here();
  expect(slip).toMatch(/^object-/);
  await ines.keyboard.press('0');
  await expect(ines.locator(`[id="${slip}"]`)).toHaveAccessibleName(/^Too blurred/);
  await expect(ines.getByRole('status', { name: 'saved state' })).toHaveText('● saved');

  // once the worker has compared it, it is the first that looks like another class
  await expect
    .poll(() => sql('demo', `select oddness is not null as known from marks where id = '${slip.slice(7)}' and class = 'blurred'`), {
      timeout: 60_000
    })
    .toContain('"known":1');
  await ines.goto(url('demo', '/p/1/sheet?class=blurred'));
  const cell = ines.locator(`[id="${slip}"]`);
  await expect(cell).toBeVisible();
  await expect(cell).toHaveAccessibleName(/looks like Apple/);
  expect(Number(await cell.getAttribute('aria-posinset'))).toBeLessThan(60);

  // looked at on the bench, and back to the very spot
  await cell.dblclick();
  await expect(ines.getByRole('application')).toHaveAccessibleDescription(/shown/);
  await expect(ines.getByRole('list', { name: 'marks' }).getByRole('button', { expanded: true })).toBeVisible();
  await ines.getByRole('link', { name: 'back to the list' }).click();
  await expect(table).toHaveAttribute('aria-activedescendant', slip);
  await expect(cell).toBeInViewport();

  // put right, taken back, put right again: by keys
  await table.focus();
  await ines.keyboard.press('1');
  await expect(cell).toHaveAccessibleName(/^Apple/);
  await ines.keyboard.press('Control+z');
  await expect(cell).toHaveAccessibleName(/^Too blurred/);
  await ines.keyboard.press('Control+Shift+z');
  await expect(ines.getByRole('status', { name: 'saved state' })).toHaveText('● saved');
  await expect.poll(() => sql('demo', `select class from marks where id = '${slip.slice(7)}'`)).toContain('apple');

  // several at once: removed and brought back
  await ines.goto(url('demo', '/p/1/sheet?class=scab&sort=size'));
  await expect(ines.getByRole('status').filter({ hasText: /\d+ objects/ })).toBeVisible();
  await table.focus();
  await ines.keyboard.press('Space');
  await ines.keyboard.press('Shift+ArrowRight');
  await ines.keyboard.press('Shift+ArrowRight');
  await expect(ines.getByRole('status').filter({ hasText: '3 chosen' })).toBeVisible();
  await ines.keyboard.press('Delete');
  await expect(ines.getByRole('option', { name: /removed/ })).toHaveCount(3);
  await ines.keyboard.press('g');
  await expect(ines.getByRole('option', { name: /removed/ })).toHaveCount(0);
  await expect(ines.getByRole('status', { name: 'saved state' })).toHaveText('● saved');
});

test('the contact sheet scrolls by itself and has only what is in sight', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.setViewportSize({ width: 1024, height: 520 });
  await ines.goto(url('demo', '/p/1/sheet?class=apple'));
  const table = ines.getByRole('listbox', { name: 'objects' });
  await expect(table.getByRole('option').first()).toBeVisible();
  const size = await table.evaluate((t) => ({ shown: t.clientHeight, all: t.scrollHeight }));
  expect(size.all).toBeGreaterThan(size.shown);
  expect(size.shown).toBeLessThan(480);
  const total = Number(await table.getByRole('option').first().getAttribute('aria-setsize'));
  expect(await table.getByRole('option').count()).toBeLessThan(total);
  await table.focus();
  await ines.keyboard.press('End');
  const last = ines.locator(`[role="option"][aria-posinset="${total}"]`);
  await expect(last).toBeInViewport();
  await expect(last).toHaveAccessibleName(/^Apple on/);
  await expect(ines.locator('[role="option"][aria-posinset="1"]')).toHaveCount(0);
});
