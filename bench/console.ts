import { openBrowser } from '../test/support/browser.ts';
import { admin, openOffice } from '../test/support/office.ts';
import { cyrus, freshDatabase } from '../test/support/servers.ts';

/**
 * The console as it is built: its first page, cold, and a forecast of 20,000 items, beside the bare fetching and reading
 * of the same bytes; how evenly it scrolls, and how long a key takes to show while the network is slow.
 */
const ITEMS = Number(process.env['ITEMS'] ?? 20_000);

const office = await openOffice({ diary: cyrus(), withLane: false, notices: false });
const database = await freshDatabase();
const url = new URL(database.url);
const { default: pg } = await import('pg');
const client = new pg.Client({ connectionString: database.url });
await client.connect();
await client.query(`create table visit (id int primary key, title text, starts timestamptz, ends timestamptz, note text);
  insert into visit select n, 'Ottoline Marsh: tuning, Alder upright ' || n, '2027-01-01 08:00Z'::timestamptz + n * interval '10 minutes', '2027-01-01 09:00Z'::timestamptz + n * interval '10 minutes', 'Ring before arriving.' from generate_series(1, ${ITEMS}) n`);
await client.end();
await office.client.connect({
  slug: 'book',
  name: 'Book',
  kind: 'postgresql',
  settings: { address: `postgresql://${url.host}${url.pathname}`, user: 'app', tls: 'off' },
  secrets: { password: url.password },
});
const fields = { title: { copy: 'title' }, description: { copy: 'note' }, busy: { fixed: 'busy' } };
await office.client.makeLane(
  'visits',
  {
    name: 'Visits',
    records: { system: 'book', collection: 'visit' },
    calendar: { system: 'diary', calendar: office.calendar },
    direction: '->',
    zone: 'UTC',
    moments: [{ name: 'visit', when: { start: 'starts', end: 'ends' } }],
    fields,
  },
  false,
);

const browser = await openBrowser();
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
const page = await context.newPage();
await page.goto(office.address);
await page.getByLabel('E-mail').fill(admin.email);
await page.getByLabel('Password').fill(admin.password);
await page.keyboard.press('Enter');
await page.getByRole('heading', { name: 'Today' }).waitFor();

const cold: number[] = [];
let sent = 0;
for (let round = 0; round < 5; round++) {
  const fresh = await browser.newContext({ viewport: { width: 1280, height: 800 }, storageState: await context.storageState() });
  const first = await fresh.newPage();
  sent = 0;
  first.on('response', async (r) => {
    if (r.url().endsWith('.js')) sent += Number((await r.allHeaders())['content-length'] ?? (await r.body()).length);
  });
  const from = performance.now();
  await first.goto(office.address, { waitUntil: 'commit' });
  await first.getByRole('link', { name: 'Visits' }).first().waitFor();
  cold.push(performance.now() - from);
  await fresh.close();
}

await page.goto(`${office.address}/lanes/visits`);
const bare = await page.evaluate(async () => {
  const from = performance.now();
  const headers = { 'content-type': 'application/json', 'x-requested-with': 'bench' };
  const answer = await fetch('/api/v1/lanes/visits/forecast', { method: 'POST', headers, body: '{}' });
  const { operations } = JSON.parse(await answer.text()) as { operations: unknown[] };
  return { took: performance.now() - from, operations: operations.length };
});
const asked = performance.now();
await page.getByRole('button', { name: 'Forecast and run' }).click();
const list = page.getByRole('region', { name: 'Forecast, item by item' });
await list.waitFor({ timeout: 120_000 });
const shown = performance.now() - asked;
const frames = await list.evaluate(async (element) => {
  const times: number[] = [];
  let last = performance.now();
  for (let i = 0; i < 180; i++) {
    element.scrollTop += i % 60 === 59 ? 200_000 : 240;
    await new Promise(requestAnimationFrame);
    times.push(performance.now() - last);
    last = performance.now();
  }
  return times.sort((a, b) => a - b);
});
await page.keyboard.press('Escape');

// Typing in the editor, while every answer of the service takes two seconds.
const { definition } = await office.client.lane('visits');
const draft = await office.client.makeDraft({ slug: 'typed', definition });
await page.goto(`${office.address}/drafts/${draft.id}`);
const name = page.getByLabel('Name', { exact: true });
await name.waitFor();
await page.route('**/api/**', async (route) => {
  await new Promise((fine) => setTimeout(fine, 2000));
  await route.continue();
});
await name.focus();
const keys: number[] = [];
for (const key of 'a name that is typed') {
  const before = await name.inputValue();
  const from = performance.now();
  await page.keyboard.press(key === ' ' ? 'Space' : key);
  await page.waitForFunction(([was]) => (document.activeElement as HTMLInputElement).value !== was, [before] as const, { polling: 'raf' });
  keys.push(performance.now() - from);
}
keys.sort((a, b) => a - b);
const at = (sorted: number[], share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!;
cold.sort((a, b) => a - b);
console.log(`console: the first page, cold: median ${at(cold, 0.5).toFixed(0)} ms until a lane can be clicked (wanted: under 1000), ${(sent / 1024).toFixed(0)} KB of JavaScript as sent
  a forecast of ${bare.operations} items: ${(shown / 1000).toFixed(2)} s until it is shown, against ${(bare.took / 1000).toFixed(2)} s for the same answer fetched and read, ratio ${(shown / bare.took).toFixed(2)}
  scrolled through: a frame takes ${at(frames, 0.5).toFixed(1)} ms, 95 % within ${at(frames, 0.95).toFixed(1)} ms, the longest ${at(frames, 1).toFixed(1)} ms
  a key typed in the editor shows within ${at(keys, 0.5).toFixed(0)} ms, at most ${at(keys, 1).toFixed(0)} ms, while each answer of the service takes 2000 ms`);
await browser.close();
await office.stop();
await database.drop();
process.exit(at(cold, 0.5) < 1000 && bare.operations === ITEMS && at(keys, 1) < 1000 ? 0 : 1);
