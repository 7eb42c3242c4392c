import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

test.describe.configure({ mode: 'serial' });
/** Sheets whose words lie where they were put: one with a text layer, one of page pictures. */
const name = `Sheets ${Date.now()}`;
const folder = join(folders.demo, 'sheets');
let project = 0;
/** Makes a PDF with a line of words on each page, and beside it the same pages as pictures. */
function papers(pdf: string, pages: number, pictures: string | null): void {
  const code = `require 'vendor/autoload.php';
    $file = Skeno\\Core\\Tests\\Document\\Papers::pdf($argv[1], array_map(fn (int $n): array => [300.0, 400.0, [[50.0, 100.0, "Weight {$n}12 kg"], [50.0, 200.0, "Tare 4{$n} kg"]]], range(1, (int) $argv[2])));
    if ($argv[3] !== '') foreach (Skeno\\Core\\Tests\\Document\\Papers::scanned($file, 150) as $i => $page) $page->writeImage("{$argv[3]}/".($i + 9).'.png');`;
  execFileSync('php', ['-r', code, pdf, String(pages), pictures ?? '']);
}
const turns = (): Record<string, number> =>
  Object.fromEntries(
    (
      JSON.parse(
        sql('demo', `select i.path, max(t.id) as turn from turns t join items i on i.id = t.item_id where t.project_id = ${project} and t.stage = 'label' group by i.path`) // prettier-ignore
      ) as { path: string; turn: number }[]
    ).map(({ path, turn }) => [path, turn])
  );
const rows = <T>(query: string): T[] => JSON.parse(sql('demo', query)) as T[];
async function press(page: Page, ...keys: string[]): Promise<void> {
  for (const key of keys) await page.keyboard.press(key);
}
const here = (page: Page) => page.getByRole('navigation', { name: 'pages' }).locator('[aria-current]');
/** px of a page for a point of the paper */
const px = (points: number) => (points * 150) / 72;

test.beforeAll(() => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'scans', '17'), { recursive: true });
  papers(join(folder, 'a.pdf'), 3, null);
  papers(join(folder, 'scan.pdf'), 2, join(folder, 'scans', '17'));
  papers(join(folder, 'long.pdf'), 60, null);
  const codebook = {
    skeno: 'codebook/1',
    classes: [{ key: 'weight', name: 'Weight line', shapes: ['box'], shortcut: '1', attributes: ['written'] }],
    attributes: [
      { key: 'written', name: 'What is written', type: 'text', scope: 'object', required: true, reads: true },
      { key: 'kind', name: 'Kind of page', type: 'one', scope: 'page', required: true, options: [{ key: 'front', name: 'Front' }, { key: 'lines', name: 'Lines' }] } // prettier-ignore
    ]
  };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  for (const [who, role] of [
    ['Ines Okafor', 'manager'],
    ['Mei Castellan', 'labeller']
  ] as const)
    member(project, who, role);
});
test.beforeEach(() => void freeAll('demo'));

test('a PDF and a folder of page pictures come in through the page, each as a document', async ({ person }) => {
  test.setTimeout(120_000);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/bring-in`));
  const [chooser] = await Promise.all([ines.waitForEvent('filechooser'), ines.getByText('choose files').click()]);
  await chooser.setFiles([join(folder, 'a.pdf'), join(folder, 'long.pdf')]);
  await expect(ines.getByRole('region', { name: 'report' })).toContainText('3 pages; with a text layer', { timeout: 60_000 });
  await ines.getByRole('checkbox', { name: /pages of a document/ }).check();
  const [second] = await Promise.all([ines.waitForEvent('filechooser'), ines.getByText('choose a folder').click()]);
  await second.setFiles(join(folder, 'scans'));
  await expect
    .poll(() => rows<{ path: string }>(`select path from items where project_id = ${project} and kind = 'document'`).length, {
      timeout: 60_000
    })
    .toBe(3);
  await expect(ines.getByRole('region', { name: 'report' })).toContainText('words are read from its pictures');
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  await expect.poll(() => Object.keys(turns()).length).toBe(3);
});

test('boxes snap to words that are offered and corrected; a page without its answer is found, led to and mended', async ({ person }) => {
  test.setTimeout(120_000);
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['a.pdf']}`));
  const hand = new StageHand(mei);
  await hand.ready();
  await expect(hand.stage).toHaveAccessibleName(/a\.pdf, page 1 of 3/);

  // a loose box round a line: it goes close, and the words stand in the field until they are taken
  await press(mei, 'e');
  await hand.drag(px(44), px(78), px(240), px(112));
  const field = mei.getByRole('textbox', { name: 'What is written' });
  await expect(field).toHaveValue('Weight 112 kg');
  await expect(mei.getByText('as the file has it: Enter takes it')).toBeVisible();
  const [x, y, width, height] = await hand.numbers(hand.marks.first());
  expect([x! > px(47), y! > px(78), width! < px(150), height! < px(30)]).toEqual([true, true, true, true]);
  expect(rows<{ n: number }>(`select count(*) as n from marks where project_id = ${project} and answers like '%112%'`)[0]!.n).toBe(0);
  await press(mei, 'Enter');
  await expect(hand.marks.filter({ hasText: 'Weight 112 kg' })).toHaveCount(1);

  // the next page by its key; what was read is corrected in place
  await press(mei, 'Escape', 'x');
  await expect(here(mei)).toHaveAccessibleName(/^page 2/);
  await press(mei, 'e');
  await hand.drag(px(44), px(178), px(240), px(212));
  await expect(field).toHaveValue('Tare 42 kg');
  await press(mei, 'End');
  await mei.keyboard.type(', wet');
  await press(mei, 'Enter');
  await expect(hand.marks.filter({ hasText: 'Tare 42 kg, wet' })).toHaveCount(1);
  await hand.saved();
  expect(rows<{ place: number }>(`select place from marks where project_id = ${project} and deleted_at is null order by place`).map((m) => m.place)).toEqual([0, 1]); // prettier-ignore

  // pages 1 and 3 are answered, by keys; submitted, the second is named and led to
  await press(mei, 'Escape', 'z');
  await expect(here(mei)).toHaveAccessibleName(/^page 1/);
  await press(mei, 'r', 'q', 'q');
  await expect(here(mei)).toHaveAccessibleName('page 1, 1 mark');
  await press(mei, 'x', 'x', 'r', 'q', 'w');
  await expect(here(mei)).toHaveAccessibleName('page 3');
  // (what is missing is said before it is asked for too: while the item is on its way nothing can be answered)
  const asked = mei.waitForResponse((r) => r.url().endsWith('/submit') && r.status() === 422);
  await press(mei, 's');
  await asked;
  await expect(mei.getByText(/Kind of page is not answered, on page 2/).first()).toBeVisible();
  await mei.getByRole('button', { name: /1 Kind of page: page/ }).click();
  await expect(here(mei)).toHaveAccessibleName(/^page 2/);
  await press(mei, 'w');
  await expect(here(mei)).toHaveAccessibleName('page 2, 1 mark');

  // a reload comes back to this page, with all that was done
  await hand.saved();
  await mei.reload();
  await hand.shown();
  await expect(here(mei)).toHaveAccessibleName('page 2, 1 mark');
  await expect(hand.marks).toHaveCount(2);
  // a mark taken from the list brings its page
  await hand.pick(hand.marks.filter({ hasText: 'Weight 112 kg' }));
  await expect(here(mei)).toHaveAccessibleName(/^page 1/);
  await press(mei, 'Escape');
  await hand.ready();
  await press(mei, 's');
  await expect(mei.getByRole('banner')).not.toContainText('a.pdf');
  expect(rows<{ state: string }>(`select state from items where project_id = ${project} and path = 'a.pdf'`)[0]!.state).not.toBe('open');

  const out = join(folder, 'out');
  artisan('skeno:release', name, '--format=coco', '--states=any', `--out=${out}`, '--json');
  const coco = JSON.parse(readFileSync(join(out, 'annotations/all.json'), 'utf8')) as {
    images: { file_name: string; page_index: number; attributes: Record<string, string> }[];
    annotations: { image_id: number; attributes: Record<string, string> }[];
  };
  const pages = coco.images.filter((i) => i.file_name.startsWith('a/'));
  expect(pages.map((i) => [i.file_name, i.page_index, i.attributes.kind])).toEqual([
    ['a/0000.jpg', 0, 'front'],
    ['a/0001.jpg', 1, 'lines'],
    ['a/0002.jpg', 2, 'lines']
  ]);
  expect(coco.annotations.map((a) => a.attributes.written)).toEqual(['Weight 112 kg', 'Tare 42 kg, wet']);
});

test('words of a scan are read, said with how sure, and drawn on the page that was pressed', async ({ person }) => {
  test.setTimeout(120_000);
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['scans/17']}`));
  const hand = new StageHand(mei);
  await hand.ready();
  // smaller, so that the second page comes into sight below; drawn there it is the one in hand
  const { x, y } = await hand.at(300, 300);
  await mei.mouse.move(x, y);
  await mei.mouse.wheel(0, 500);
  await expect(here(mei)).toHaveAccessibleName(/^page 2/);
  await mei.mouse.wheel(0, -200);
  await press(mei, 'e');
  await hand.drag(px(44), px(78), px(240), px(112));
  await expect(mei.getByRole('textbox', { name: 'What is written' })).toHaveValue('Weight 212 kg', { timeout: 20_000 });
  await expect(mei.getByText(/read, \d+ % sure: Enter takes it/)).toBeVisible();
  await press(mei, 'Enter');
  await hand.saved();
  expect(rows<{ place: number; answers: string }>(`select m.place, m.answers from marks m join items i on i.id = m.item_id where i.path = 'scans/17' and m.project_id = ${project}`)).toMatchObject([{ place: 1 }]); // prettier-ignore
  // two steps back undo the answer and the box that went close; a third the box
  await press(mei, 'Escape', 'Control+z', 'Control+z', 'Control+z');
  await expect(hand.marks).toHaveCount(0);
});

test('of sixty pages only those in sight are held, and any is gone to by its number', async ({ person }) => {
  const mei = await person('Mei Castellan');
  const asked: string[] = [];
  mei.on('request', (r) => r.url().includes('size=screen') && r.url().includes('place=') && asked.push(r.url()));
  await mei.goto(url('demo', `/p/${project}/bench/${turns()['long.pdf']}`));
  const hand = new StageHand(mei);
  await hand.ready();
  expect(asked.length).toBeLessThan(10);
  await press(mei, 't', 'e');
  await mei.getByRole('textbox', { name: 'page' }).pressSequentially('61');
  await press(mei, 'Enter');
  await expect(mei.getByRole('alert')).toContainText('a page from 1 to 60');
  await press(mei, 'Control+a');
  await mei.keyboard.type('48');
  await press(mei, 'Enter');
  await expect(here(mei)).toHaveAccessibleName(/^page 48/);
  await hand.shown();
  expect(asked.some((a) => a.includes('place=47&'))).toBe(true);
  expect(asked.length).toBeLessThan(20);
});
