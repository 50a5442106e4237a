import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { Page } from 'playwright-core';
import { data } from '../demo/places.ts';
import { openBrowser } from '../test/support/browser.ts';

/**
 * Takes pictures of the running demo: node --import tsx scripts/screenshots.ts [FOLDER] [NAME...]
 * Without a folder, those that the README links to, for docs/screenshots.
 */
const root = resolve(import.meta.dirname, '..');
const [folder = join(root, 'docs', 'screenshots'), ...given] = process.argv.slice(2);
const linked = [...readFileSync(join(root, 'README.md'), 'utf8').matchAll(/screenshots\/([a-z-]+)\.png/g)].map(([, name]) => name!);
const only = process.argv.length === 2 ? linked : given;
const settings = JSON.parse(readFileSync(join(root, '.monsoon', 'cli.json'), 'utf8')) as { address: string };
const secrets = JSON.parse(readFileSync(join(data, 'secrets.json'), 'utf8')) as { admin: string };

const browser = await openBrowser();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' });
page.on('console', (m) => m.type() === 'error' && console.log(`page: ${m.text()}`));

/** What a command prints, whatever its exit code says. */
const monsoon = (args: string[]) =>
  spawnSync(process.execPath, [join(root, 'packages/cli/bin/monsoon.mjs'), ...args], { cwd: root }).stdout.toString();

const shots: Record<string, (page: Page) => Promise<void>> = {
  today: async (p) => void (await p.goto(`${settings.address}/`)),
  systems: async (p) => void (await p.goto(`${settings.address}/systems`)),
  system: async (p) => {
    await p.goto(`${settings.address}/systems/hire-book`);
    await p.getByRole('button', { name: 'Check now' }).click();
    await p.getByText('tables with triggers report').waitFor();
  },
  connect: async (p) => {
    await p.goto(`${settings.address}/systems/new`);
    await p.getByRole('button', { name: /Calendar server/ }).click();
    await p.getByLabel('Name (needed)').fill('Second diary');
    await p.getByLabel('Address (needed)').fill('http://127.0.0.1:4720/');
    await p.getByLabel('User').fill('alderwren');
    await p.getByLabel('Password').fill('not-this-one');
    await p.getByRole('button', { name: 'Check first' }).click();
    await p.getByText('does not accept the credentials').waitFor();
  },
  'system-try': async (p) => {
    await p.goto(`${settings.address}/systems/workbench`);
    await p.getByRole('button', { name: 'Try' }).click();
    await p.getByText('tasks: one record').click();
  },
  lanes: async (p) => void (await p.goto(`${settings.address}/lanes`)),
  lane: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits`);
    await p.getByRole('cell', { name: 'in sync' }).first().waitFor();
  },
  'lane-settings': async (p) => void (await p.goto(`${settings.address}/lanes/tuning-visits?tab=settings`)),
  item: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits/items/V-1118/visit`);
    await p.getByRole('heading', { name: 'History' }).waitFor();
  },
  guests: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits?tab=guests`);
    await p.getByLabel('Guests in state').selectOption('sent');
    await p.getByText('accepted', { exact: true }).first().waitFor();
  },
  'item-guests': async (p) => {
    const visit = JSON.parse(monsoon(['guests', 'list', 'tuning-visits', '--state', 'sent', '--json'])) as { items: { item: string }[] };
    await p.goto(`${settings.address}/lanes/tuning-visits/items/${visit.items[0]?.item}/visit`);
    await p.getByRole('heading', { name: 'Guests' }).scrollIntoViewIfNeeded();
  },
  'lane-editor-guests': async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits`);
    await p.getByRole('button', { name: 'Change', exact: true }).click();
    await p.getByRole('tab', { name: 'Sides' }).waitFor();
    await p.getByRole('tab', { name: /^Guests/ }).click();
    await p.getByText('The mail as a guest sees it').first().waitFor();
  },
  'lane-editor-rows': async (p) => {
    await p.goto(`${settings.address}/lanes/concerts`);
    await p.getByRole('button', { name: 'Change', exact: true }).click();
    await p.getByRole('tab', { name: 'Sides' }).waitFor();
    await p.getByRole('tab', { name: /^Fields/ }).click();
    await p.getByLabel('Collection of the rows').scrollIntoViewIfNeeded();
  },
  'item-rows': async (p) => {
    const { items } = JSON.parse(monsoon(['items', 'concerts', '--json'])) as { items: { recordId: string; label: string }[] };
    await p.goto(`${settings.address}/lanes/concerts/items/${items.find((i) => i.label === 'Schools concert')?.recordId}/concert`);
    await p.getByRole('heading', { name: 'History' }).waitFor();
  },
  reply: async (p) => {
    const room = settings.address.replace(/\d+$/, (port) => String(Number(port) + 12));
    const { items } = (await (await fetch(`${room}/api/mails`)).json()) as { items: { text: string }[] };
    await p.goto(/(http\S+\/reply\/\S+)/.exec(items.find((m) => m.text.includes('/reply/'))!.text)![1]!);
  },
  'post-room': async (p) => void (await p.goto(`${settings.address.replace(/\d+$/, (port) => String(Number(port) + 12))}/mails/0`)),
  'item-left-out': async (p) => void (await p.goto(`${settings.address}/lanes/tuning-visits/items/V-1105/visit`)),
  forecast: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits`);
    await p.getByRole('button', { name: 'Forecast and run' }).click();
    await p.getByText('Would not cross').first().waitFor();
  },
  audit: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits`);
    await p.getByRole('button', { name: 'Audit' }).click();
    await p.getByText('in all').waitFor();
  },
  runs: async (p) => void (await p.goto(`${settings.address}/runs`)),
  run: async (p) => {
    await p.goto(`${settings.address}/runs`);
    await p
      .locator('tbody tr', { hasText: /created/ })
      .last()
      .getByRole('link')
      .click();
    await p.getByText('What it did').waitFor();
  },
  undo: async (p) => {
    await p.goto(`${settings.address}/runs`);
    await p
      .locator('tbody tr', { hasText: /created/ })
      .last()
      .getByRole('link')
      .click();
    await p.getByRole('button', { name: 'Undo...' }).click();
    await p.getByRole('button', { name: /Take back [1-9]/ }).waitFor();
  },
  holds: async (p) => void (await p.goto(`${settings.address}/holds`)),
  counts: async (p) => {
    await p.goto(`${settings.address}/counts`);
    await p.locator('main table').first().waitFor();
  },
  calendar: async (p) => {
    await p.goto(`${settings.address}/calendar?day=${nextMonday()}`);
    await p.locator('.band').first().waitFor();
  },
  'calendar-lane': async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits?tab=calendar`);
    await p.locator('.band').first().waitFor();
  },
  'calendar-day': async (p) => {
    await p.goto(`${settings.address}/calendar?view=day&day=${new Date(Date.now() + 86_400_000 * 2).toISOString().slice(0, 10)}`);
    await p.locator('.band').first().waitFor();
  },
  'calendar-month': async (p) => {
    await p.goto(`${settings.address}/calendar?view=month`);
    await p.locator('.band').first().waitFor();
  },
  'calendar-list': async (p) => {
    await p.goto(`${settings.address}/calendar?view=list`);
    await p.locator('main table').first().waitFor();
  },
  'calendar-forecast': async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits?tab=calendar&would=be&day=${nextMonday()}`);
    await p.locator('.band').first().waitFor();
    await p.getByText('Reading both sides').waitFor({ state: 'detached' });
  },
  feeds: async (p) => {
    await p.goto(`${settings.address}/feeds`);
    await p.getByRole('cell', { name: 'Tuners, busy or free' }).waitFor();
  },
  feed: async (p) => {
    await p.goto(`${settings.address}/feeds`);
    await p.getByRole('button', { name: 'Open' }).first().click();
    await p.getByAltText('The address, for the camera').waitFor();
  },
  people: async (p) => void (await p.goto(`${settings.address}/people`)),
  activity: async (p) => void (await p.goto(`${settings.address}/activity`)),
  editor: (p) => openDraft(p, 'Fields'),
  prove: async (p) => {
    await openDraft(p, 'Prove it');
    await p.getByText('Would not cross').first().waitFor();
  },
  // A series in the editor, the item page of one of its occurrences, and the run that took it apart.
  'series-editor': async (p) => {
    await openDraft(p, 'Which', 'hall-bookings');
    await p.getByText('occurrences in the window').waitFor();
  },
  'series-item': async (p) => {
    await p.goto(`${settings.address}/lanes/hall-bookings`);
    await p.getByRole('link', { name: 'Choir rehearsal' }).nth(2).click();
    await p.getByText('of a series').waitFor();
  },
  'series-run': async (p) => {
    const { items } = JSON.parse(monsoon(['runs', '--lane', 'hall-bookings', '--json'])) as { items: { id: string }[] };
    await p.goto(`${settings.address}/runs/${items.at(-1)!.id}`);
    await p.getByRole('button', { name: /of a series/ }).waitFor();
  },
  'maintenance-editor': (p) => openDraft(p, 'Fields', 'maintenance'),
  'command-line': async (p) => {
    const commands = ['', 'audit tuning-visits', 'why tuning-visits V-1105', 'holds'];
    const said = commands.map((c) => `$ monsoon ${c}\n${monsoon(c.split(' ').filter(Boolean))}`).join('\n');
    await p.setContent(`<style>body{background:#24211e;color:#ede8e0;margin:16px;font:12.5px/1.45 monospace}</style><pre></pre>`);
    await p.locator('pre').evaluate((pre, text) => (pre.textContent = text), said);
  },
  dark: async (p) => {
    await p.goto(`${settings.address}/lanes/tuning-visits`);
    await p.getByRole('button', { name: 'Change to dark colours' }).click();
  },
};

/** The week ahead: the demo's visits lie around today. */
const nextMonday = () => new Date(Date.now() + 86_400_000 * (8 - (new Date().getUTCDay() || 7))).toISOString().slice(0, 10);

/** The draft beside a lane, at one of its sections. */
async function openDraft(p: Page, section: string, lane = 'tuning-visits'): Promise<void> {
  await p.goto(`${settings.address}/lanes/${lane}`);
  await p.getByRole('button', { name: 'Change', exact: true }).click();
  await p.getByRole('tab', { name: section }).click();
}

await page.goto(`${settings.address}/`);
if (only.length === 0 || only.includes('sign-in')) await page.screenshot({ path: join(folder, 'sign-in.png') });
await page.getByLabel('E-mail').fill('ines@alder-wren.example');
await page.getByLabel('Password').fill(secrets.admin);
await page.getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('heading', { name: 'Today' }).waitFor();
for (const [name, go] of Object.entries(shots)) {
  if (only.length > 0 && !only.includes(name)) continue;
  await go(page);
  await page.waitForTimeout(500);
  await page.screenshot({ path: join(folder, `${name}.png`) });
}
await browser.close();
