import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { artisan, expect, freeAll, member, png, sql, StageHand, test } from './fixtures';
import { folders, url } from './place';

/** Pictures of two kinds, told apart by their colours: wet ones in the rain and dry ones. What is accepted says which is which. */
const name = `Weather ${Date.now()}`;
const [ACCEPTED, NEW] = [16, 4];
let project = 0;
const isWet = (i: number): boolean => i % 2 === 0;
const ask = <T>(statement: string): T[] => JSON.parse(sql('demo', statement));

test.beforeAll(() => {
  const folder = join(folders.demo, 'weather');
  rmSync(folder, { recursive: true, force: true });
  for (const part of ['old', 'new']) mkdirSync(join(folder, 'pictures', part), { recursive: true });
  const images = Array.from({ length: ACCEPTED + NEW }, (_, i) => {
    const file_name = `${i < ACCEPTED ? 'old' : 'new'}/${String(i).padStart(2, '0')}.png`;
    writeFileSync(join(folder, 'pictures', file_name), png(320 + i, 240, isWet(i) ? 20 : 3));
    return { id: i + 1, file_name, width: 320 + i, height: 240, tags: isWet(i) ? ['wet'] : [], attributes: { weather: isWet(i) ? 'rain' : 'dry' } }; // prettier-ignore
  }).slice(0, ACCEPTED);
  const annotations = images.map(({ id }) => ({ id, image_id: id, category_id: 1, bbox: [80, 60, 80, 60], area: 4800, iscrowd: 0 }));
  writeFileSync(join(folder, 'coco.json'), JSON.stringify({ images, categories: [{ id: 1, name: 'leaf' }], annotations }));
  const codebook = {
    skeno: 'codebook/1',
    classes: [{ key: 'leaf', name: 'Leaf', shapes: ['box'] }],
    attributes: [{ key: 'weather', name: 'Weather', type: 'one', scope: 'item', options: [{ key: 'dry', name: 'Dry' }, { key: 'rain', name: 'Rain' }] }], // prettier-ignore
    tags: [{ key: 'wet', name: 'Wet leaves' }]
  };
  writeFileSync(join(folder, 'codebook.json'), JSON.stringify(codebook));
  project = JSON.parse(artisan('skeno:project', name, `--codebook=${join(folder, 'codebook.json')}`, '--json')).project;
  artisan('skeno:import', name, join(folder, 'pictures'), '--format=coco', `--labels=${join(folder, 'coco.json')}`, '--json');
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
});
test.beforeEach(() => void freeAll('demo'));

const help = async (ines: Page): Promise<void> => {
  await ines.goto(url('demo', `/p/${project}/help`));
  await expect(ines.getByRole('region', { name: 'learned here' })).toBeVisible();
};

test('tags and answers are learned by looks, run, decided by keys; a lot takes sure ones once all was seen; what became of them is told', async ({
  person
}) => {
  test.setTimeout(180_000);
  const ines = await person('Ines Okafor');
  await help(ines);
  await ines.getByRole('button', { name: 'Learn looks' }).click();
  await expect(ines.getByRole('table', { name: 'versions' })).toContainText('in use', { timeout: 60_000 });
  // it is the only model, so the sentence is about it: its words are named
  await expect(ines.getByRole('button', { name: 'Wet leaves, Weather: which classes' })).toBeVisible();
  await ines.getByRole('button', { name: 'Measure it' }).click();
  const figures = ines.getByRole('table', { name: 'figures of the trial' });
  await expect(figures).toContainText('Weather', { timeout: 60_000 });
  await expect.poll(async () => Number((await figures.textContent())?.match(/(\d+) %/)?.[1] ?? 0), { timeout: 60_000 }).toBe(100);

  // handed out so that sure ones count; the queue begins with what is doubtful
  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'in which order' }).click();
  await ines.getByRole('radio', { name: /those first of which models are least sure/ }).check();
  await ines.getByRole('button', { name: 'what counts as looked at' }).click();
  const from = ines.getByRole('spinbutton', { name: /count as looked at/ });
  await from.click();
  await ines.keyboard.press('Control+a');
  await ines.keyboard.type('0.6');
  await ines.keyboard.press('Tab');
  await expect(ines.getByRole('button', { name: /suggestions from 0\.60 on taken once all was seen/ })).toBeVisible();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  await expect(ines.getByRole('row', { name: /from 0\.60 on taken once all was seen/ })).toBeVisible();

  // which items is said on Items
  await ines.goto(url('demo', `/p/${project}/items?f=set:new&f=labelled:unlabelled`));
  await ines.getByRole('link', { name: `Ask a model about these ${NEW}` }).click();
  await expect(ines.getByRole('button', { name: `${NEW} items of new, is not labelled: which items` })).toBeVisible();
  await ines.getByRole('button', { name: `Run over ${NEW} items` }).click();
  const run = ines.getByRole('table', { name: 'runs' }).getByRole('row').nth(1);
  await expect(run).toContainText('done', { timeout: 60_000 });
  // of the wet ones a tag and an answer, of the dry ones an answer
  await expect(run).toContainText(`${NEW + NEW / 2} of the whole`);

  // one item by keys: what it says of the weather is right, that the leaves are wet is not
  const wet = ask<{ turn: number; item: number }>(
    `select t.id as turn, t.item_id as item from turns t join items i on i.id = t.item_id where t.project_id = ${project} and i.path in (${Array.from({ length: NEW }, (_, k) => ACCEPTED + k).filter(isWet).map((i) => `'new/${i}.png'`).join(',')}) order by i.path` // prettier-ignore
  );
  const mei = await person('Mei Castellan');
  await mei.goto(url('demo', `/p/${project}/bench/${wet[0]!.turn}`));
  const hand = new StageHand(mei);
  await hand.shown();
  const offered = mei.getByRole('list', { name: 'suggestions' });
  await expect(offered.getByRole('listitem')).toHaveCount(2);
  const said = () => ask<{ answers: string; tags: string }>(`select answers, tags from layers where item_id = ${wet[0]!.item} and name = 'agreed'`)[0]!; // prettier-ignore
  await mei.keyboard.press('a');
  for (let n = 0; n < 2; n++) {
    const now = offered.locator('.now');
    await expect(now).toHaveCount(1);
    await mei.keyboard.press((await now.textContent())!.includes('Weather: Rain') ? 'a' : 'd');
    await expect(offered.getByRole('listitem')).toHaveCount(1 - n);
  }
  await hand.saved();
  expect(said()).toEqual({ answers: '{"weather":{"value":"rain"}}', tags: '[]' });
  await mei.keyboard.press('b');
  await mei.keyboard.press('e');
  await hand.drag(80, 60, 160, 120);
  await hand.saved();
  await hand.ready();
  await mei.keyboard.press('Escape');
  await mei.keyboard.press('s');
  await expect.poll(() => ask<{ state: string }>(`select state from items where id = ${wet[0]!.item}`)[0]!.state).toBe('accepted');
  expect(said().tags).toBe('[]');

  // another is only seen: what is sure enough counts
  await mei.goto(url('demo', `/p/${project}/bench/${wet[1]!.turn}`));
  await hand.shown();
  await expect(mei.getByText(/From 0\.60 on they count as looked at/)).toBeVisible();
  await expect(offered.getByRole('listitem')).toHaveCount(2);
  await mei.keyboard.press('e');
  await hand.drag(80, 60, 160, 120);
  await hand.saved();
  await expect.poll(() => ask(`select 1 from seen where item_id = ${wet[1]!.item} and cells not like '%0%'`).length).toBe(1);
  await mei.keyboard.press('Escape');
  await hand.ready();
  await mei.keyboard.press('s');
  await expect(mei.getByText('the whole was seen, so 2 sure suggestions are labels; take it back to look again')).toBeVisible();
  expect(ask(`select answers, tags, source from layers where item_id = ${wet[1]!.item} and name = 'agreed'`)).toEqual([{ answers: '{"weather":{"value":"rain"}}', tags: '["wet"]', source: 'model' }]); // prettier-ignore

  await help(ines);
  await ines.getByRole('table', { name: 'runs' }).getByRole('button', { name: 'what became of it' }).click();
  await expect(ines.getByText('tags and answers of the whole')).toBeVisible();
  await expect(ines.getByRole('table', { name: 'runs' })).toContainText('3 right1 wrong2 not come to yet');
});
