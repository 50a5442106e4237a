import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { plainVisits } from '../test/support/front-desk.ts';
import { openOffice } from '../test/support/office.ts';
import { dav, eventually, radicale } from '../test/support/servers.ts';

/**
 * From the Front desk's answer until the event is readable on the calendar server (radicale), beside the bare work:
 * the same notice received by a bare server that PUTs the finished text.
 */
const ROUNDS = 60;
const VISITS = 110;

const office = await openOffice({ seed: plainVisits(VISITS) });
await eventually('the first run', async () => (await office.client.lane('tuning-visits')).lastRun?.state === 'done', 60_000);
const median = (times: number[]) => [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
const high = (times: number[]) => [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.95)]!;

const start = (round: number) =>
  `2026-12-${String(1 + (round % 28)).padStart(2, '0')}T${String(8 + (round % 9)).padStart(2, '0')}:${String(round % 60).padStart(2, '0')}:00`;
const stamp = (text: string) => text.replace(/[-:]/g, '');

async function readable(href: string, words: string, from: number): Promise<number> {
  while (performance.now() < from + 10_000) {
    if ((await dav(radicale(), 'GET', href)).text.includes(words)) return performance.now() - from;
  }
  throw new Error(`not readable within 10 s: ${href} with ${words}`);
}

const through: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  const visit = `V-${1001 + (round % VISITS)}`;
  const { href } = (await office.event(visit))!;
  const at = start(round);
  await office.frontDesk.call('PATCH', `/visits/${visit}`, { start: at });
  through.push(await readable(href, `DTSTART;TZID=Europe/London:${stamp(at)}`, performance.now()));
}
await office.client.pause('tuning-visits');

// Bare: a server that knows already what to write, and writes it when it is told.
let next: { href: string; text: string } | null = null;
const bare = createServer((request, response) => {
  request.resume();
  request.on('end', () => {
    response.writeHead(204).end();
    const write = next;
    next = null;
    if (write !== null) void dav(radicale(), 'PUT', write.href, { 'content-type': 'text/calendar' }, write.text);
  });
});
await new Promise<void>((fine) => bare.listen(0, '127.0.0.1', fine));
await office.frontDesk.call('POST', '/webhooks', { url: `http://127.0.0.1:${(bare.address() as AddressInfo).port}/` });
const direct: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  const visit = `V-${1001 + (round % VISITS)}`;
  const event = (await office.event(visit))!;
  const at = start(round + 7);
  next = { href: event.href, text: event.text.replace(/(BEGIN:VEVENT[\s\S]*?)^DTSTART.*$/m, `$1DTSTART;TZID=Europe/London:${stamp(at)}`) };
  await office.frontDesk.call('PATCH', `/visits/${visit}`, { start: at });
  direct.push(await readable(event.href, `DTSTART;TZID=Europe/London:${stamp(at)}`, performance.now()));
}
bare.close();
await office.stop();

const cores = readFileSync('/proc/cpuinfo', 'utf8').match(/^processor/gm)?.length;
console.log(`latency, Front desk's answer to event readable (radicale, ${VISITS} events, ${ROUNDS} rounds, ${cores} cores)
  Monsoon          median ${median(through).toFixed(0)} ms, 95 % within ${high(through).toFixed(0)} ms (wanted: median under 300 ms)
  webhook and PUT  median ${median(direct).toFixed(0)} ms, 95 % within ${high(direct).toFixed(0)} ms
  ratio            ${(median(through) / median(direct)).toFixed(2)}`);
process.exit(median(through) < 300 ? 0 : 1);
