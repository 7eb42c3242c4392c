import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { artisan, expect, freeAll, member, sql, test } from './fixtures';
import { folders, url } from './place';

test.describe.configure({ mode: 'serial' });
/** Notes of a round, the words of which are known. */
const name = `Rounds ${Date.now()}`;
const folder = join(folders.demo, 'rounds');
const notes = {
  'a.txt': '12 woolly aphids on the Winterholt rows, 3 codling moths.\nAphids again by the old wall.',
  'b.txt': 'No codling moths, some woolly aphids.',
  'c.txt': 'Woolly aphids. Nothing else; 40 mites.',
  'd.txt': 'Quiet day 👩‍🌾, שלום aphids.'
};
let project = 0;
const turns = (): Record<string, number> =>
  Object.fromEntries(
    (
      JSON.parse(
        sql('demo', `select i.path, max(t.id) as turn from turns t join items i on i.id = t.item_id where t.project_id = ${project} and t.stage = 'label' group by i.path`) // prettier-ignore
      ) as { path: string; turn: number }[]
    ).map(({ path, turn }) => [path, turn])
  );

test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'notes'), { recursive: true });
  for (const [file, words] of Object.entries(notes)) writeFileSync(join(folder, 'notes', file), words);
  const codebook = {
    skeno: 'codebook/1',
    classes: [
      { key: 'pest', name: 'Pest', shapes: ['span'], shortcut: '1' },
      { key: 'count', name: 'Count', shapes: ['span'], shortcut: '2' },
      { key: 'block', name: 'Block', shapes: ['span'], shortcut: '3' },
      { key: 'variety', name: 'Variety', shapes: ['span'], shortcut: '4' }
    ],
    attributes: [{ key: 'summary', name: 'Summary', type: 'text', scope: 'item', control: 'paragraphs', max: 300 }],
    relations: [{ key: 'counted', name: 'of', from: ['count'], to: ['pest'] }]
  };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'notes'), '--json');
  for (const [who, role] of [['Ines Okafor', 'manager'], ['Tobias Lindqvist', 'reviewer'], ['Mei Castellan', 'labeller']] as const) member(project, who, role); // prettier-ignore
});
test.beforeEach(() => void freeAll('demo'));

const stage = (page: Page): Locator => page.getByRole('application', { name: /^text / });
const marks = (page: Page): Locator => page.getByRole('list', { name: 'marks' }).getByRole('listitem');
const saved = (page: Page) => expect(page.getByRole('status', { name: 'saved state' })).toHaveText(/● saved/);
async function press(page: Page, ...keys: string[]): Promise<void> {
  for (const key of keys) await page.keyboard.press(key);
}
/** Where some words lie on the screen. */
const rectOf = (page: Page, words: string, nth = 0): Promise<{ x: number; y: number; width: number; height: number }> =>
  stage(page).evaluate(
    (root, [wanted, n]) => {
      const walk = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
      let seen = 0;
      for (let node = walk.nextNode(); node; node = walk.nextNode())
        for (let at = node.nodeValue!.indexOf(wanted); at >= 0; at = node.nodeValue!.indexOf(wanted, at + 1)) {
          if (!node.parentElement?.closest('[data-at]') || seen++ < n) continue;
          const range = document.createRange();
          range.setStart(node, at);
          range.setEnd(node, at + wanted.length);
          const { x, y, width, height } = range.getClientRects()[0]!;
          return { x, y, width, height };
        }
      throw new Error(`"${wanted}" is not on the stage`);
    },
    [words, nth] as const
  );

async function handOut(ines: Page): Promise<void> {
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines
    .getByRole('button', { name: /which reviewers|reviewed by/ })
    .first()
    .click();
  await ines.getByRole('checkbox', { name: /Tobias Lindqvist/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  await expect.poll(() => Object.keys(turns()).length).toBe(4);
}

test('notes in, spans and a relation by keys, what lies over others, reviewed with a pin on words, CoNLL out token by token', async ({
  person
}) => {
  test.setTimeout(120_000);
  await handOut(await person('Ines Okafor'));
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['a.txt']}`));
  await expect(stage(mei)).toContainText('woolly aphids');
  // the first word is looked at: a digit makes it a span; on, widened by one, another
  await press(mei, '2');
  await expect(marks(mei)).toHaveCount(1);
  await press(mei, 'w');
  await mei.keyboard.down('e');
  await press(mei, 'w');
  await mei.keyboard.up('e');
  await press(mei, '1');
  await expect(marks(mei).filter({ hasText: 'woolly aphids' })).toHaveCount(1);
  // back to the number, and a relation from it to what was counted
  await press(mei, 'q', 'Enter', 'g', 'q');
  await expect(mei.getByRole('button', { name: /^E\s*join/ })).toBeVisible();
  await press(mei, 'e');
  await expect(marks(mei).filter({ hasText: '12 → woolly aphids' })).toHaveCount(1);
  // a block with a variety within it: both are there, on two lines
  await press(mei, 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight');
  await press(mei, '4', 'Escape', 'Shift+ArrowRight', '3');
  await expect(marks(mei).filter({ hasText: 'Winterholt rows' })).toHaveCount(1);
  await expect(marks(mei)).toHaveCount(5);
  const tops = await stage(mei).evaluate((root) => [...root.querySelectorAll<HTMLElement>('.line.own')].map((l) => l.style.top));
  expect(new Set(tops).size).toBe(2);
  // the same words stand on the next line, and are one key
  await mei.getByRole('button', { name: /^Summary/ }).click();
  await mei.getByRole('textbox', { name: 'Summary' }).pressSequentially('Aphids on the rows.');
  await press(mei, 'Enter', 'Enter');
  await mei.getByRole('textbox', { name: 'Summary' }).pressSequentially('Moths: few.');
  await press(mei, 'Control+Enter');
  await saved(mei);
  await press(mei, 's');
  await expect(mei.getByRole('banner')).toContainText('b.txt');

  // what was marked is known in the next note
  await expect(mei.getByRole('button', { name: /Pest: woolly aphids/ })).toBeVisible();
  await press(mei, 'a');
  await expect(marks(mei)).toHaveCount(1);
  await saved(mei);
  await mei.waitForTimeout(300);
  await press(mei, 's');
  await expect(mei.getByRole('banner')).toContainText('c.txt');

  // the reviewer pins what is missing on its words, and returns the second
  const tobias = await person('Tobias Lindqvist');
  await tobias.goto(url('demo', '/'));
  await tobias.goto(
    url('demo', `/p/${project}/bench/${JSON.parse(sql('demo', `select max(t.id) as id from turns t join items i on i.id = t.item_id where t.project_id = ${project} and i.path = 'b.txt'`))[0].id}`) // prettier-ignore
  );
  await expect(stage(tobias)).toContainText('No codling moths');
  await press(tobias, 'f');
  const moths = await rectOf(tobias, 'moths');
  await tobias.mouse.click(moths.x + 4, moths.y + moths.height / 2);
  await tobias.getByRole('textbox', { name: /pin on these words/ }).pressSequentially('a pest, also where there is none');
  await press(tobias, 'Enter');
  await expect(tobias.getByRole('region', { name: 'what was said' })).toContainText('a pest, also');
  await press(tobias, 'g');
  await tobias.getByRole('textbox', { name: /^Return to/ }).pressSequentially('moths too');
  await press(tobias, 'Control+Enter');
  await expect
    .poll(() => JSON.parse(sql('demo', `select state from items where project_id = ${project} and path = 'b.txt'`))[0].state)
    .toBe('returned');
  await tobias.goto(
    url('demo', `/p/${project}/bench/${JSON.parse(sql('demo', `select max(t.id) as id from turns t join items i on i.id = t.item_id where t.project_id = ${project} and i.path = 'a.txt'`))[0].id}`) // prettier-ignore
  );
  await expect(stage(tobias)).toContainText('Winterholt');
  await tobias.waitForTimeout(300);
  await press(tobias, 's');
  await expect
    .poll(() => JSON.parse(sql('demo', `select state from items where project_id = ${project} and path = 'a.txt'`))[0].state)
    .toBe('accepted');

  const out = join(folder, 'conll');
  rmSync(out, { recursive: true, force: true });
  const done = JSON.parse(artisan('skeno:release', name, '--format=conll', `--out=${out}`, '--json'));
  expect(done.not_held_by_the_format.map((r: { what: string; count: number }) => [r.what, r.count])).toEqual([
    ['spans over which another lies were left out: a token has one tag', 1],
    ['relations can not be said in CoNLL', 1],
    ['answers about texts can not be said in CoNLL', 1]
  ]);
  expect(readFileSync(join(out, 'dataset.conll'), 'utf8')).toBe(
    ['-DOCSTART- O', '', '12 B-count', 'woolly B-pest', 'aphids I-pest', 'on O', 'the O', 'Winterholt B-block', 'rows I-block', ', O', '3 O', 'codling O', 'moths O', '. O', '', 'Aphids O', 'again O', 'by O', 'the O', 'old O', 'wall O', '. O', '', ''].join('\n') // prettier-ignore
  );
  const said = JSON.parse(sql('demo', `select l.answers from layers l join items i on i.id = l.item_id where i.project_id = ${project} and i.path = 'a.txt' and l.name = 'agreed'`))[0].answers; // prettier-ignore
  expect(JSON.parse(said).summary.value).toBe('Aphids on the rows.\n\nMoths: few.');
});

test('spans by the pointer: dragged, pressed twice, pulled at an edge, by letters; a drag from marker to marker; offline nothing is lost', async ({
  person
}) => {
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['c.txt']}`));
  await expect(stage(mei)).toContainText('Nothing else');
  for (let n = await marks(mei).count(); n > 0; n = await marks(mei).count()) {
    await marks(mei).first().getByRole('button').first().click();
    await press(mei, 'Delete');
    await expect(marks(mei)).toHaveCount(n - 1);
  }
  // from the middle of one word to the middle of another: whole words
  await press(mei, 'Escape');
  const woolly = await rectOf(mei, 'Woolly');
  const aphids = await rectOf(mei, 'aphids');
  await mei.mouse.move(woolly.x + woolly.width / 2, woolly.y + 8);
  await mei.mouse.down();
  await mei.mouse.move(woolly.x + woolly.width, woolly.y + 8);
  await mei.mouse.move(aphids.x + aphids.width / 2, aphids.y + 8);
  await mei.mouse.up();
  await expect(marks(mei).filter({ hasText: 'Woolly aphids' })).toHaveCount(1);
  // the digit after drawing is its class
  await press(mei, '3');
  await expect(mei.getByRole('list', { name: 'marks' })).toContainText('Block');
  await press(mei, '1');
  // its end pulled back to the first word
  const edge = stage(mei).locator('[data-edge="end"]');
  const box = (await edge.boundingBox())!;
  const first = await rectOf(mei, 'Woolly');
  await mei.mouse.move(box.x + 4, box.y + box.height / 2);
  await mei.mouse.down();
  await mei.mouse.move(first.x + first.width + 8, first.y + 10);
  await mei.mouse.move(first.x + first.width - 10, first.y + 10);
  await mei.mouse.up();
  await expect(marks(mei).first()).toHaveAccessibleName(/"Woolly" at 0 to 6/);
  await press(mei, 'Control+z');
  await expect(marks(mei).filter({ hasText: 'Woolly aphids' })).toHaveCount(1);
  // a double press, while the network is gone
  await mei.context().setOffline(true);
  // nothing in hand, no word looked at: the digit is for what comes
  await press(mei, 'Escape', 'Escape', '1');
  const mites = await rectOf(mei, 'mites');
  await mei.mouse.dblclick(mites.x + 10, mites.y + 8);
  await expect(marks(mei).filter({ hasText: 'mites' })).toHaveCount(1);
  const forty = await rectOf(mei, '40');
  await mei.mouse.dblclick(forty.x + 5, forty.y + 8);
  await expect(marks(mei).filter({ hasText: '40' })).toHaveCount(1);
  await press(mei, '2');
  // from the marker of the number to that of what was counted
  const sign = async (words: string): Promise<{ x: number; y: number }> => {
    const id = await marks(mei).filter({ hasText: words }).first().getAttribute('data-mark');
    const at = (await stage(mei).locator(`[data-sign="${id}"]`).boundingBox())!;
    return { x: at.x + 4, y: at.y + 5 };
  };
  const [a, b] = [await sign('40'), await sign('mites')];
  await mei.mouse.move(a.x, a.y);
  await mei.mouse.down();
  await mei.mouse.move((a.x + b.x) / 2, a.y + 12);
  await mei.mouse.move(b.x, b.y);
  await mei.mouse.up();
  await expect(marks(mei).filter({ hasText: '40 → mites' })).toHaveCount(1);
  await expect(mei.getByRole('status', { name: 'saved state' })).toContainText('waiting');
  await mei.context().setOffline(false);
  await saved(mei);
  await mei.reload();
  await expect(marks(mei).filter({ hasText: '40 → mites' })).toHaveCount(1);
  await expect(marks(mei)).toHaveCount(4);
});

test('a text in two directions with a sign of several code points: offsets are those of the text', async ({ person }) => {
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['d.txt']}`));
  await expect(stage(mei)).toContainText('Quiet day');
  const aphids = await rectOf(mei, 'aphids');
  await press(mei, '1', 'Escape');
  await mei.mouse.dblclick(aphids.x + aphids.width / 2, aphids.y + 8);
  const shalom = await rectOf(mei, 'שלום');
  await mei.mouse.dblclick(shalom.x + shalom.width / 2, shalom.y + 8);
  await expect(marks(mei).filter({ hasText: 'שלום' })).toHaveCount(1);
  await saved(mei);
  const found = (
    JSON.parse(
      sql('demo', `select json_extract(m.geometry, '$.start') as s, json_extract(m.geometry, '$.end') as e from marks m join items i on i.id = m.item_id where i.project_id = ${project} and i.path = 'd.txt' and m.deleted_at is null order by 1`) // prettier-ignore
    ) as { s: number; e: number }[]
  ).map(({ s, e }) => [...notes['d.txt']].slice(s, e).join(''));
  expect(found.toSorted()).toEqual(['Quiet', 'aphids', 'שלום'].toSorted());
});

test('a table comes in when its columns have been looked at; a relation is described', async ({ person }) => {
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/bring-in`));
  await ines.getByText('many texts in a file').click();
  const csv = join(folder, 'more.csv');
  writeFileSync(csv, 'who;remark;nr\nMei;"Mites; many";7\nRavi;;8\n');
  await ines.locator('input[type=file]').first().setInputFiles(csv);
  await expect(ines.getByRole('heading', { name: 'What is what?' })).toBeVisible();
  await expect(ines.getByRole('button', { name: 'Take them in' })).toBeDisabled();
  await ines.getByRole('combobox', { name: 'what remark is' }).selectOption('the text');
  await ines.getByRole('combobox', { name: 'what nr is' }).selectOption('names it');
  await ines.getByRole('button', { name: 'Take them in' }).click();
  await expect(ines.getByText('1 texts taken')).toBeVisible();
  expect(JSON.parse(sql('demo', `select path, facts from items where project_id = ${project} and path like 'more/%'`))).toEqual([
    { path: 'more/7', facts: '{"who":"Mei"}' }
  ]);
  await ines.goto(url('demo', `/p/${project}/describe`));
  await ines.getByRole('tab', { name: 'Relations' }).click();
  await ines.getByRole('textbox', { name: 'new relation' }).pressSequentially('stands in');
  await ines.keyboard.press('Enter');
  const made = ines.getByRole('article', { name: 'stands in' });
  await made.getByRole('group', { name: 'stands in leads to' }).getByRole('button', { name: 'Block' }).click();
  await ines.getByRole('button', { name: 'Save codebook' }).click();
  await expect(ines.getByText('saved as version 2')).toBeVisible();
  expect(JSON.parse(sql('demo', `select json_extract(body, '$.relations[1]') as r from codebooks where project_id = ${project} and version = 2`))[0].r).toContain('"to":["count","block"]'); // prettier-ignore
});
