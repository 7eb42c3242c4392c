import { execFileSync } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { StageHand } from './fixtures';

const shot = (page: Page, name: string) => page.screenshot({ path: `docs/screenshots/${name}.png` });

async function as(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name }).click();
  await expect(page.getByRole('heading', { name: /^Hello/ })).toBeVisible();
  await page.waitForLoadState('networkidle');
}

test('the sign-in page', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await page.waitForLoadState('networkidle');
  await shot(page, 'sign-in');
});

test('what the manager sees', async ({ page }) => {
  await as(page, 'Ines Okafor');
  for (const [name, path] of [
    ['progress', ''],
    ['describe', '/describe'],
    ['bring-in', '/bring-in'],
    ['hand-out', '/hand-out'],
    ['release', '/release'],
    ['people', '/people']
  ]) {
    await page.goto(`/p/1${path}`);
    await page.waitForLoadState('networkidle');
    if (name === 'hand-out') await page.getByRole('button', { name: 'to which labellers' }).click();
    if (name === 'describe') await page.getByRole('button', { name: 'Apple', expanded: false }).first().click();
    await page.waitForTimeout(500);
    await shot(page, name!);
  }
});

test('a codebook changed after labelling', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/1/describe');
  await page.waitForLoadState('networkidle');
  await page.getByRole('tab', { name: 'As JSON' }).click();
  const json = page.getByLabel('codebook as JSON');
  const doc = JSON.parse(await json.inputValue());
  doc.classes[0] = { ...doc.classes[0], key: 'fruit', name: 'Fruit' };
  doc.classes.splice(1, 1);
  doc.attributes[0].options[1] = { key: 'colouring', name: 'Colouring' };
  doc.tags = doc.tags.slice(0, 3);
  await json.fill(JSON.stringify(doc, null, 2));
  await page.getByLabel('Apple goes to').selectOption('=fruit');
  await page.getByLabel('Leaf scab goes to').selectOption('-');
  await page.getByRole('tab', { name: 'Classes' }).click();
  await page.waitForTimeout(700);
  await shot(page, 'codebook-change');
});

test('a skeleton over a card', async ({ page }) => {
  await as(page, 'Ines Okafor');
  await page.goto('/p/2/describe');
  await page.waitForLoadState('networkidle');
  await page.getByRole('tab', { name: 'Skeletons' }).click();
  await page.getByLabel('guide picture').selectOption({ index: 3 });
  await page.getByRole('button', { name: 'Fore wing, left' }).first().click();
  await page.waitForTimeout(700);
  await shot(page, 'skeletons');
});

test('masks, skeletons and many classes on the bench', async ({ page }) => {
  await as(page, 'Mei Castellan');
  await page.getByRole('region', { name: 'my work in Canopy walk' }).getByRole('button', { name: 'Continue' }).click();
  const hand = new StageHand(page);
  await hand.shown();
  // apples as they truly lie, outlined one by one with the mask tool
  const crumbs = (await page.locator('.crumbs').textContent())!.split('›').map((w) => w.trim());
  const data = process.env.SKENO_DATA ?? 'storage/skeno';
  const truth = JSON.parse(readFileSync(`${data}/demo/truth/${crumbs[2]}/${crumbs[3]!.replace('.jpg', '.json')}`, 'utf8'));
  for (const key of ['1', 'e', 'e', 'e']) await page.keyboard.press(key);
  await page.keyboard.press('d');
  for (const apple of truth.filter((f: { class: string }) => f.class === 'apple').slice(0, 4)) {
    const g = apple.geometry;
    for (let i = 0; i < 10; i++)
      await hand.click(
        g.x + g.width / 2 + 0.48 * g.width * Math.cos(i * 0.628),
        g.y + g.height / 2 + 0.48 * g.height * Math.sin(i * 0.628)
      );
    await page.keyboard.press('Enter');
    await page.keyboard.press('Enter');
    // its required question, then the next mask
    for (const key of ['e', 'Escape', 'Escape']) await page.keyboard.press(key);
  }
  await page.mouse.move(520, 300);
  await page.waitForTimeout(400);
  await shot(page, 'masks');

  await page.goto('/');
  await page.getByRole('region', { name: 'my work in Trap cards' }).getByRole('button', { name: 'Continue' }).click();
  await hand.shown();
  const place = (await page.locator('.crumbs').textContent())!.split('›').map((w) => w.trim());
  const moths = JSON.parse(readFileSync(`${data}/demo/traps/truth/${place[2]}/${place[3]!.replace('.jpg', '.json')}`, 'utf8'));
  for (const { nodes } of moths.filter((m: { nodes: Record<string, unknown> }) => m.nodes.head && m.nodes.tail).slice(0, 3)) {
    await page.keyboard.press('Escape');
    await hand.click(nodes.head.x, nodes.head.y);
    await hand.click(nodes.tail.x, nodes.tail.y);
  }
  await page.getByRole('group', { name: 'nodes' }).getByRole('button').nth(2).click();
  await page.waitForTimeout(400);
  await shot(page, 'trap-cards');
});

test('the class board', async ({ page }) => {
  const data = process.env.SKENO_DATA ?? 'storage/skeno';
  const php = (...args: string[]): string => execFileSync('php', args, { env: { ...process.env, SKENO_DATA: data } }).toString();
  const sql = (statement: string) =>
    JSON.parse(
      php(
        '-r',
        '$p = new PDO("sqlite:".$argv[2]."/skeno.sqlite"); $p->exec("pragma foreign_keys = on"); $s = $p->query($argv[1]); echo json_encode($s->fetchAll(PDO::FETCH_ASSOC));',
        statement,
        data
      )
    );
  // a project of its own, gone afterwards: the sorts of the trial orchard, more than ten digits hold
  const sorts =
    'Amberel,Borsa,Calwen,Dornrose,Eskelin,Ferrum,Galdiva,Harrow Red,Ilmen,Jorva,Kestrel,Lirma,Marrowby,Norling,Ostara,Pellin,Quill,Rosmer,Saffin,Torvald,Umbra,Velda,Wexel,Yarrow,Zelma,Brindle,Corvin,Delmar,Elsin,Fennel,Garnet,Hedda,Iver,Juniper,Karst,Lunde,Merle';
  const file = `${data}/sorts.json`;
  writeFileSync(
    file,
    JSON.stringify({
      skeno: 'codebook/1',
      classes: sorts.split(',').map((name) => ({ key: name.toLowerCase().replace(/ /g, '_'), name, shapes: ['box'] }))
    })
  );
  const name = 'Fruit sorts';
  const { project } = JSON.parse(php('artisan', 'skeno:project', name, `--codebook=${file}`, '--json'));
  php('artisan', 'skeno:import', name, `${data}/demo/pictures/nursery`, '--json');
  const item = sql(`select id from items where project_id = ${project} limit 1`)[0].id;
  const owner = sql("select id from users where name = 'Ines Okafor'")[0].id;
  sql(
    `insert into memberships (project_id, user_id, role, created_at, updated_at) values (${project}, ${owner}, 'manager', '2026-01-01', '2026-01-01')`
  );
  sql(
    `insert into turns (project_id, item_id, stage, pass, round, layer, state, user_id, created_at, updated_at) values (${project}, ${item}, 'label', 1, 1, 'agreed', 'waiting', ${owner}, '2026-01-01', '2026-01-01')`
  );
  await as(page, 'Ines Okafor');
  await page.goto(`/p/${project}/bench/${sql(`select id from turns where item_id = ${item}`)[0].id}`);
  await new StageHand(page).shown();
  await page.keyboard.press('`');
  await page.mouse.move(500, 300);
  await page.waitForTimeout(500);
  await shot(page, 'class-board');
  sql(`delete from projects where id = ${project}`);
  rmSync(file);
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
  await page
    .getByRole('listitem', { name: /^Apple 2/ })
    .getByRole('button')
    .first()
    .click();
  await page.keyboard.press('r');
  await page.waitForTimeout(400);
  await shot(page, 'question');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Handbook' }).click();
  await page.waitForTimeout(600);
  await shot(page, 'handbook');
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
