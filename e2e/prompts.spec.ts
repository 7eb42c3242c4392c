import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { artisan, expect, freeAll, member, serveStandIns, sql, test, type StandIns } from './fixtures';
import { folders, url } from './place';

test.describe.configure({ mode: 'serial' });
/** Notes of scouts: of some all is known and accepted, others are new; and a chat model that reads them after a fashion. */
const name = `Rounds read ${Date.now()}`;
const [ACCEPTED, NEW] = [16, 4];
const KEY = 'larkmoor-stand-in';
let project = 0;
let standIn: StandIns;

type Truth = { path: string; text: string; urgency: string; spans: { class: string; start: number; end: number }[] };

test.beforeAll(async () => {
  test.setTimeout(120_000);
  const folder = join(folders.demo, 'prompts');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const code =
    'require "vendor/autoload.php"; $all = []; foreach (Skeno\\Demo\\ScoutNotes::plan((int) $argv[1]) as $note) $all[] = ["path" => $note["path"]] + Skeno\\Demo\\ScoutNotes::note(new Skeno\\Demo\\Chance($note["seed"])); echo json_encode($all);';
  const truth = JSON.parse(execFileSync('php', ['-r', code, String(ACCEPTED + NEW)]).toString()) as Truth[];
  const line = ({ text, spans }: Truth, i: number) =>
    JSON.stringify({
      id: i < ACCEPTED ? `old/${i}` : `new/${i}`,
      text,
      ...(i < ACCEPTED && {
        labelled: 'objects',
        annotations: spans.map((s, k) => ({
          id: `a${k}`,
          type: 'Annotation',
          body: { type: 'TextualBody', value: s.class },
          target: { selector: { type: 'TextPositionSelector', start: s.start, end: s.end } }
        }))
      })
    });
  writeFileSync(join(folder, 'notes.jsonl'), truth.map(line).join('\n'));
  project = JSON.parse(artisan('skeno:project', name, '--codebook=demo/resources/scout-notes.json', '--json')).project;
  artisan('skeno:import', name, join(folder, 'notes.jsonl'), '--format=jsonl', '--json');
  truth.slice(0, ACCEPTED).forEach(({ urgency }, i) => {
    const item = `(select id from items where project_id = ${project} and path like '%old/${i}')`;
    sql(
      'demo',
      `update layers set answers = '{"urgency":{"value":"${urgency}"}}', revision = 1 where name = 'agreed' and item_id = ${item}`
    );
    sql('demo', `update items set state = 'accepted' where id = ${item}`);
  });
  member(project, 'Ines Okafor', 'manager');
  member(project, 'Mei Castellan', 'labeller');
  standIn = await serveStandIns();
});
test.afterAll(() => standIn?.stop());
test.beforeEach(() => void freeAll('demo'));

const ask = <T>(statement: string): T[] => JSON.parse(sql('demo', statement));
const said = (page: Page): Locator => page.getByRole('status', { name: 'difference' });
const gain = (page: Page): Locator => page.getByRole('region', { name: 'gain' });
/** A field is gone to and filled as a hand does. */
async function fill(field: Locator, words: string): Promise<void> {
  await field.click();
  await field.page().keyboard.press('ControlOrMeta+a');
  await field.page().keyboard.type(words);
}

test('a prompt from its first words to suggestions that were confirmed', async ({ person }) => {
  test.setTimeout(240_000);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/help/prompts`));
  // whom to ask: the key goes to the server and is not seen again
  await ines.getByRole('button', { name: 'Connect a chat model' }).click();
  const form = ines.getByRole('region', { name: 'chat models' });
  await fill(form.getByLabel('name here'), 'reader');
  await form.getByLabel('address').selectOption(standIn.address);
  await fill(form.getByLabel('its name there'), 'note-reader');
  await fill(form.getByLabel('key'), KEY);
  await fill(form.getByLabel('price of a million tokens read'), '0.5');
  await fill(form.getByLabel('written'), '2');
  await form.getByRole('button', { name: 'Connect' }).click();
  await expect(form.getByRole('row', { name: /reader/ })).toContainText('kept, never shown');
  await ines.reload();
  await expect(form.getByRole('row', { name: /reader/ })).toContainText('kept, never shown');
  expect(await ines.content()).not.toContain(KEY);
  expect(JSON.stringify(ask('select * from chat_models'))).not.toContain(KEY);

  // words to begin with are there, and what is filled in is seen beside them
  const words = ines.getByRole('textbox', { name: 'The prompt' });
  const told = ines.getByLabel('what the model is told');
  await expect(words).toHaveValue(/\{classes\}/);
  await expect(told).toContainText('treatment: Treatment');
  await ines.getByRole('button', { name: /: what it is asked for/ }).click();
  await ines.getByRole('checkbox', { name: 'Advice' }).uncheck();
  await expect(told).not.toContainText('advice');
  await ines.getByRole('button', { name: /: which prompt/ }).click();
  await fill(ines.getByLabel('its name'), 'Read rounds');
  await words.click();
  await ines.keyboard.press('ControlOrMeta+a');
  await ines.keyboard.type('Mark in the note:\n{classes}\nAnswer:\n{questions}\nReply');
  await expect(ines.locator('#prompt-fault')).toContainText('{form}');
  await expect(ines.getByRole('button', { name: /Save as version 1/ })).toBeDisabled();
  // what is written and not saved is there after a reload
  await ines.reload();
  await expect(words).toHaveValue(/Reply$/);
  await words.click();
  await ines.keyboard.press('ControlOrMeta+End');
  await ines.keyboard.type(' as\n{form}');
  await ines.getByRole('button', { name: `Save and try it on ${ACCEPTED} texts` }).click();
  const figures = ines.getByRole('table', { name: 'figures of spans' });
  await expect(ines.getByText(`${ACCEPTED} texts answered`)).toBeVisible({ timeout: 60_000 });
  await expect(figures.getByRole('row', { name: /all together/ })).toContainText('%');
  await expect(ines.getByRole('table', { name: 'figures of answers' })).toContainText('Urgency');
  const [{ known }] = ask<{ known: number }>(`select count(*) as known from marks where project_id = ${project} and layer = 'agreed' and kind = 'span'`) as [{ known: number }]; // prettier-ignore
  await expect(
    figures
      .getByRole('row', { name: /all together/ })
      .getByRole('cell')
      .nth(1)
  ).toHaveText(String(known));

  // a second version on the same texts, held against the first
  await words.click();
  await ines.keyboard.press('ControlOrMeta+Home');
  await ines.keyboard.type('The number of a row is no count. It is routine unless something gets worse.\n');
  await ines.getByRole('button', { name: 'Save and try version 2 on the same texts' }).click();
  await expect(gain(ines)).toContainText('Against Read rounds, version 1', { timeout: 60_000 });
  await expect(gain(ines)).toContainText(`on the ${ACCEPTED} texts`, { timeout: 60_000 });
  await expect(gain(ines)).toContainText(/texts? changed/);

  // side by side: what changed, then all differences, from one to the next by keys
  await gain(ines).getByRole('link').first().click();
  await expect(said(ines)).toContainText(/1 of \d+/);
  await expect(ines.getByRole('region', { name: /^said by Read rounds, version [12]$/ })).toHaveCount(2);
  const before = await said(ines).textContent();
  await ines.keyboard.press('s');
  await expect(said(ines)).not.toHaveText(before!);
  await ines.keyboard.press('a');
  await expect(said(ines)).toHaveText(before!);
  await ines.keyboard.press('z');
  await ines.getByRole('link', { name: 'Side by side with what is accepted' }).click();
  await expect(ines.getByRole('region', { name: 'accepted' })).toBeVisible();
  const list = ines.getByRole('navigation', { name: 'texts' }).locator('.text');
  const texts = await list.count();
  expect(texts).toBeGreaterThan(1);
  // through all of them, one difference after the other: every text that has any comes once
  const seen = new Set<string>();
  const ways = new Set<string>();
  for (let n = 0; n < 400 && !seen.has('end'); n++) {
    const now = (await said(ines).textContent())!;
    const [, at, of] = now.match(/(\d+) of (\d+)/)!;
    seen.add((await ines.locator('.text[aria-current="true"]').textContent())!);
    for (const way of ['missing', 'too much', 'bounded otherwise']) if (now.includes(way)) ways.add(way);
    if (seen.size === texts && at === of) break;
    await ines.keyboard.press('s');
    await expect(said(ines)).not.toHaveText(now);
  }
  expect(seen.size).toBe(texts);
  expect(ways.size).toBeGreaterThan(1);
  await ines.keyboard.press('d');
  await expect(list.nth(texts - 2)).toHaveAttribute('aria-current', 'true');

  // over the rest: suggestions like those of any model
  await ines.keyboard.press('z');
  await ines.getByRole('button', { name: `Run it over the rest: ${NEW}` }).click();
  const run = ines.getByRole('table', { name: 'runs' }).getByRole('row', { name: /Read rounds, version 2/ });
  await expect(run).toContainText(`${NEW} of ${NEW}`, { timeout: 60_000 });
  await expect(run).toContainText('done');

  await ines.goto(url('demo', `/p/${project}/hand-out`));
  await ines.getByRole('button', { name: 'which sets' }).click();
  await ines.getByRole('checkbox', { name: /^new|\/new/ }).check();
  await ines.getByRole('button', { name: 'to which labellers' }).click();
  await ines.getByRole('checkbox', { name: /Mei Castellan/ }).check();
  await ines.getByRole('button', { name: 'Hand out' }).click();
  await expect
    .poll(() => ask(`select id from turns where project_id = ${project} and stage = 'label' and state = 'waiting'`).length)
    .toBe(NEW);
  const mei = await person('Mei Castellan');
  const [turn] = ask<{ id: number; item: number; n: number }>(`select t.id, t.item_id as item, (select count(*) from marks m where m.item_id = t.item_id and m.layer = 'suggestion') as n from turns t where t.project_id = ${project} and t.stage = 'label' and t.state = 'waiting' order by n desc limit 1`); // prettier-ignore
  expect(turn!.n).toBeGreaterThan(2);
  await mei.goto(url('demo', `/p/${project}/bench/${turn!.id}`));
  await expect(mei.getByRole('button', { name: `suggested: ${turn!.n + 1}` })).toBeVisible();
  // the first is right, the second is not, the rest is taken at once
  await mei.keyboard.press('a');
  const suggestions = mei.getByRole('list', { name: 'suggestions' }).getByRole('listitem');
  await expect(suggestions.first()).toHaveClass(/now/);
  await mei.keyboard.press('a');
  await expect(suggestions).toHaveCount(turn!.n);
  await mei.keyboard.press('d');
  await expect(suggestions).toHaveCount(turn!.n - 1);
  await mei.keyboard.press('f');
  await expect(suggestions).toHaveCount(0);
  await expect(mei.getByRole('status', { name: 'saved state' })).toHaveText(/● saved/);
  const marks = ask<{ suggestion_id: string | null }>(`select suggestion_id from marks where item_id = ${turn!.item} and layer = 'agreed' and deleted_at is null`); // prettier-ignore
  expect([marks.length, marks.every((m) => m.suggestion_id !== null)]).toEqual([turn!.n - 1, true]);
  expect(ask<{ answers: string }>(`select answers from layers where item_id = ${turn!.item} and name = 'agreed'`)[0]!.answers).toContain(
    'urgency'
  );

  // and what became of it is told
  await ines.goto(url('demo', `/p/${project}/help/prompts`));
  await run.getByRole('button', { name: 'what became of it' }).click();
  await expect(ines.getByText(/^1 dropped$/)).toBeVisible();
  await expect(ines.getByText(new RegExp(`^${turn!.n - 1} left as they were$`))).toBeVisible();
});

test('a wrong key and a slow model: what failed is said, stopped and gone on with', async ({ person }) => {
  test.setTimeout(120_000);
  const ines = await person('Ines Okafor');
  await ines.goto(url('demo', `/p/${project}/help/prompts`));
  const form = ines.getByRole('region', { name: 'chat models' });
  await form.getByRole('button', { name: 'change' }).click();
  await fill(form.getByLabel('key'), 'not-the-key');
  await form.getByRole('button', { name: 'Change it' }).click();
  await expect(form.getByLabel('key')).toHaveCount(0);
  await ines.getByRole('button', { name: `Try it on ${ACCEPTED} texts` }).click();
  await expect(ines.getByText('reader answered 401: this key is not known here').first()).toBeVisible({ timeout: 60_000 });
  expect(await ines.content()).not.toContain('not-the-key');
  // with the right one, and one that takes its time: it is stopped half way and gone on with
  await form.getByRole('button', { name: 'change' }).click();
  await fill(form.getByLabel('its name there'), 'note-reader-slow');
  await fill(form.getByLabel('key'), KEY);
  await form.getByRole('button', { name: 'Change it' }).click();
  await expect(form.getByRole('row', { name: /note-reader-slow/ })).toBeVisible();
  const trials = ines.getByRole('region', { name: 'trials' });
  await trials.getByRole('button', { name: 'Go on' }).click();
  await expect(trials.getByText(/^at work/)).toBeVisible({ timeout: 30_000 });
  await expect(ines.getByText(/^[1-9]\d* texts answered/)).toBeVisible({ timeout: 30_000 });
  await trials.getByRole('button', { name: 'Stop' }).click();
  await expect(trials.getByRole('button', { name: 'Go on' })).toBeVisible();
  const [{ done }] = ask<{ done: number }>('select done from prompt_trials order by id desc limit 1') as [{ done: number }];
  expect(done).toBeGreaterThan(0);
  expect(done).toBeLessThan(ACCEPTED);
  await form.getByRole('button', { name: 'change' }).click();
  await fill(form.getByLabel('its name there'), 'note-reader');
  await form.getByRole('button', { name: 'Change it' }).click();
  await expect(form.getByRole('row', { name: /note-reader(?!-slow)/ })).toBeVisible();
  await trials.getByRole('button', { name: 'Go on' }).click();
  await expect(ines.getByText(`${ACCEPTED} texts answered`)).toBeVisible({ timeout: 60_000 });
});
