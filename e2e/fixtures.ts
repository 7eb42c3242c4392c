import { test as base, expect, type Browser, type BrowserContext, type Locator, type Page, type Request } from '@playwright/test';
import { execFileSync, spawn } from 'node:child_process';
import { createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { deflateSync, crc32 } from 'node:zlib';
import { folders, url } from './place';

type Watch = { trouble: string[]; open: Map<Request, number> };

/** Every test fails on a request to any other place than its own app, on a server error, and on anything the console complains of. */
function watch(context: BrowserContext, seen: Watch): void {
  context.on('request', (r) => {
    const u = new URL(r.url());
    seen.open.set(r, Date.now());
    if (/^(https?|wss?):$/.test(u.protocol) && u.hostname !== '127.0.0.1') seen.trouble.push(`outside request: ${r.url()}`);
  });
  for (const end of ['requestfinished', 'requestfailed'] as const) context.on(end as 'requestfinished', (r) => void seen.open.delete(r));
  context.on('response', (r) => {
    if (r.status() >= 500) seen.trouble.push(`${r.status()}: ${r.url()}`);
  });
  context.on('console', (m) => {
    // a refused request (4xx) is told to the page, which shows it
    if (['error', 'warning'].includes(m.type()) && !m.text().startsWith('Failed to load resource'))
      seen.trouble.push(`console ${m.type()}: ${m.text()}`);
  });
  context.on('weberror', (e) => seen.trouble.push(`page error: ${e.error().message}`));
}

export const test = base.extend<{
  seen: Watch;
  person: (name: string) => Promise<Page>;
  anyone: (at: 'demo' | 'empty') => Promise<Page>;
}>({
  // eslint-disable-next-line no-empty-pattern
  seen: async ({}, use) => {
    const seen: Watch = { trouble: [], open: new Map() };
    await use(seen);
    expect(seen.trouble).toEqual([]);
  },
  anyone: async ({ browser, seen }, use, test) => {
    const contexts: BrowserContext[] = [];
    await use(async (at) => {
      const context = await fresh(browser, seen);
      contexts.push(context);
      const page = await context.newPage();
      await page.goto(url(at));
      return page;
    });
    // what stood there and what was waited for: elsewhere the trace of a failure is not at hand
    if (test.status !== test.expectedStatus) {
      for (const page of contexts.flatMap((c) => c.pages())) {
        const words = await page.evaluate(() => document.body.innerText.replace(/\s+/g, ' ').slice(0, 1200)).catch((e: Error) => e.message);
        console.log(`at the end: ${page.url()}\n  ${words}`);
      }
      for (const [r, since] of seen.open) console.log(`  not answered for ${Date.now() - since} ms: ${r.method()} ${r.url()}`);
    }
    for (const context of contexts) await context.close();
  },
  person: async ({ anyone }, use) => {
    await use(async (name) => {
      const page = await anyone('demo');
      await page.getByRole('button', { name }).click();
      await expect(page.getByRole('heading', { name: /^Hello/ })).toBeVisible();
      return page;
    });
  }
});
export { expect };

async function fresh(browser: Browser, seen: Watch): Promise<BrowserContext> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  watch(context, seen);
  return context;
}

/** A small PNG of one colour with a darker rectangle, made here. */
export function png(width: number, height: number, seed: number): Buffer {
  const rows = Buffer.alloc(height * (1 + width * 3));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const inside = x > width / 4 && x < width / 2 && y > height / 4 && y < height / 2;
      const at = y * (1 + width * 3) + 1 + x * 3;
      rows[at] = inside ? 190 : (seed * 53) % 200;
      rows[at + 1] = inside ? 40 : 120;
      rows[at + 2] = inside ? 30 : (seed * 91) % 200;
    }
  }
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    out.writeUInt32BE(crc32(body), body.length + 4);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows)),
    chunk('IEND', Buffer.alloc(0))
  ]);
}

/** The stage of the bench: where a place of the picture is on the screen, as its description says. */
export class StageHand {
  readonly stage: Locator;
  constructor(readonly page: Page) {
    this.stage = page.getByRole('application');
  }
  async shown(): Promise<void> {
    // (a busy machine may take a while over the first picture)
    await expect(this.stage).toHaveAccessibleDescription(/shown/, { timeout: 30_000 });
  }
  /** a moment after an item has appeared it can be submitted or decided */
  async ready(): Promise<void> {
    await this.shown();
    await expect(this.page.getByRole('banner').getByRole('button', { name: /^(Submit|Accept)/ })).toBeEnabled();
  }
  async at(x: number, y: number): Promise<{ x: number; y: number }> {
    const said = await this.page.locator('#stage-view').textContent();
    const [scale, left, top] = [...(said ?? '').matchAll(/-?\d+(?:\.\d+)?/g)].map((m) => Number(m[0]));
    const box = (await this.stage.boundingBox())!;
    return { x: box.x + left! + x * scale!, y: box.y + top! + y * scale! };
  }
  async drag(x1: number, y1: number, x2: number, y2: number): Promise<void> {
    const [a, b] = [await this.at(x1, y1), await this.at(x2, y2)];
    await this.page.mouse.move(a.x, a.y);
    await this.page.mouse.down();
    await this.page.mouse.move((a.x + b.x) / 2, (a.y + b.y) / 2);
    await this.page.mouse.move(b.x, b.y);
    await this.page.mouse.up();
  }
  async click(x: number, y: number): Promise<void> {
    const a = await this.at(x, y);
    await this.page.mouse.click(a.x, a.y);
  }
  get marks(): Locator {
    return this.page.getByRole('list', { name: 'marks' }).getByRole('listitem');
  }
  async saved(): Promise<void> {
    await expect(this.page.getByRole('status', { name: 'saved state' })).toHaveText(/● saved/);
  }
  /** takes a mark in hand by its row of the ledger */
  async pick(mark: Locator): Promise<void> {
    const row = mark.getByRole('button').first();
    if ((await row.getAttribute('aria-expanded')) !== 'true') await row.click();
    await expect(row).toHaveAttribute('aria-expanded', 'true');
  }
  /** removes all marks and takes the box tool */
  async clear(): Promise<void> {
    for (let n = await this.marks.count(); n > 0; n--) {
      await this.pick(this.marks.first());
      await this.page.keyboard.press('Delete');
      await expect(this.marks).toHaveCount(n - 1);
    }
    await this.saved();
    await this.page.keyboard.press('e');
  }
  /** numbers of a mark as the ledger describes it: x, y, width, height */
  async numbers(mark: Locator): Promise<number[]> {
    const said = (await mark.getAttribute('aria-label')) ?? '';
    const found = said.match(/at (-?[\d.]+), (-?[\d.]+), ([\d.]+) × ([\d.]+)/);
    return (found ?? []).slice(1).map(Number);
  }
}

/** The playhead of a clip, as it says itself where it is. */
export const slider = (page: Page): Locator => page.getByRole('slider', { name: 'frame' });
/** Goes to a frame by its number, as a person types it. @param frame from 0 */
export async function goTo(page: Page, frame: number): Promise<void> {
  await page.keyboard.press('t');
  await page.keyboard.press('e');
  await page.getByRole('textbox', { name: 'frame or time' }).pressSequentially(String(frame + 1));
  await page.keyboard.press('Enter');
  await expect(slider(page)).toHaveAttribute('aria-valuenow', String(frame + 1));
}

/** Runs a command of the installation with the demo. */
export const artisan = (...args: string[]): string =>
  execFileSync('php', ['artisan', ...args], { env: { ...process.env, SKENO_DATA: folders.demo } }).toString();

/** The stand-in models, served on a port of their own and allowed to be asked. */
export type StandIns = { address: string; stop: () => void };
export async function serveStandIns(): Promise<StandIns> {
  const port = await new Promise<number>((found) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => found(port));
    });
  });
  const child = spawn('php', ['-S', `127.0.0.1:${port}`, 'stand-ins/serve.php'], {
    stdio: 'ignore',
    env: { ...process.env, PHP_INI_SCAN_DIR: `:${process.cwd()}/config/php.d` }
  });
  const address = `http://127.0.0.1:${port}`;
  artisan('skeno:models', `--allow=${address}`, '--private');
  return { address, stop: () => void child.kill('SIGTERM') };
}

/** Puts somebody into a project. */
export const member = (project: number, who: string, role: string): void =>
  void sql(
    'demo',
    `insert into memberships (project_id, user_id, role, created_at, updated_at) select ${project}, id, '${role}', '2026-01-01', '2026-01-01' from users where name = '${who}'`
  );

/** Lets all leases run out, so that each test begins with what waits. */
export const freeAll = (at: keyof typeof folders) => sql(at, "update turns set leased_until = '2020-01-01 00:00:00' where state = 'open'");

/** Runs SQL on an installation, to let time pass or look at what was kept. */
export function sql(at: keyof typeof folders, statement: string): string {
  const code =
    '$p=new PDO("sqlite:".$argv[1]);$p->setAttribute(PDO::ATTR_TIMEOUT,5);$s=$p->query($argv[2]);echo json_encode($s?$s->fetchAll(PDO::FETCH_ASSOC):null);';
  return execFileSync('php', ['-r', code, join(folders[at], 'skeno.sqlite'), statement]).toString();
}

export const unzip = (file: string, entry: string): string => execFileSync('unzip', ['-p', file, entry]).toString();
export const listZip = (file: string): string[] => execFileSync('unzip', ['-Z1', file]).toString().trim().split('\n');
