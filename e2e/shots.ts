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

test('what the labeller sees', async ({ page }) => {
  await as(page, 'Ravi Sørby');
  await shot(page, 'my-work');
  await page.getByRole('button', { name: 'Continue' }).click();
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
