import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { MonsoonClient } from '@monsoon/contract/client';
import { at, email, keepSecrets, ports, root, type Secrets, Trouble } from './places.ts';

/** What people at Alder & Wren do by hand, each in the program that they work in. */

export async function frontDesk<T>(secrets: Secrets, method: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`${at(ports.frontDesk)}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${secrets.frontDesk}`, 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  if (!answer.ok) throw new Trouble(`the Front desk answered ${answer.status} to ${method} ${path}`);
  return (await answer.json()) as T;
}

/** Speaks to the Workbench, as its own people's programs do. */
export async function workbench<T>(secrets: Secrets, method: string, path: string, body?: unknown): Promise<T> {
  const answer = await fetch(`${at(ports.workbench)}/api${path}`, {
    method,
    headers: { 'x-workbench-key': secrets.workbench, 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  if (!answer.ok) throw new Trouble(`the Workbench answered ${answer.status} to ${method} ${path}`);
  return (await answer.json()) as T;
}

/** Speaks to the Diary directly, as somebody with a calendar program would. */
export async function diary(secrets: Secrets, method: string, path: string, headers: Record<string, string>, body?: string): Promise<string> {
  const authorization = `Basic ${Buffer.from(`alderwren:${secrets.diary}`).toString('base64')}`;
  const answer = await fetch(`${at(ports.diary)}${path}`, {
    method,
    headers: { authorization, ...headers },
    ...(body === undefined ? {} : { body }),
  });
  if (!answer.ok) throw new Trouble(`the Diary answered ${answer.status} to ${method} ${path}`);
  return answer.text();
}

export async function countEvents(secrets: Secrets, calendar: string): Promise<number> {
  const text = await diary(
    secrets,
    'PROPFIND',
    calendar,
    { depth: '1', 'content-type': 'application/xml' },
    '<propfind xmlns="DAV:"><prop><getetag/></prop></propfind>',
  );
  return [...text.matchAll(/<(?:\w+:)?href>[^<]*\.ics</g)].length;
}

/** One visit stands in the Diary already, entered by hand: the first run must find it, not make a second. */
export async function enterByHand(secrets: Secrets, calendar: string): Promise<void> {
  const { items } = await frontDesk<{
    items: { start: string | null; instrument: string | null; kind: string; notes: string | null; customer: { name: string } | null }[];
  }>(secrets, 'GET', '/visits?limit=500');
  const visit = items.find((v) => v.notes?.startsWith('Somebody entered this'));
  if (visit?.start == null) return;
  const clock = visit.start.replace(/[-:]/g, '');
  const until = `${clock.slice(0, 9)}${String(Number(clock.slice(9, 11)) + 1).padStart(2, '0')}${clock.slice(11)}`;
  const title = `${visit.customer?.name ?? ''}: ${visit.kind}\\, ${visit.instrument ?? ''}`;
  await diary(secrets, 'PUT', `${calendar}by-hand-1.ics`, ics, eventByHand('by-hand-1', clock, until, title));
}

const ics = { 'content-type': 'text/calendar; charset=utf-8' };

/** An event as somebody types it into a calendar program. @param clock `20261201T100000` in Leeds */
export const eventByHand = (uid: string, clock: string, until: string, title: string): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Alder and Wren//By hand//EN',
    'BEGIN:VEVENT',
    `UID:${uid}@alder-wren.example`,
    'DTSTAMP:20260101T000000Z',
    `DTSTART;TZID=Europe/London:${clock}`,
    `DTEND;TZID=Europe/London:${until}`,
    `SUMMARY:${title}`,
    'X-HAND-WRITTEN:yes',
    'BEGIN:VALARM',
    'ACTION:DISPLAY',
    'DESCRIPTION:Take the good lamp',
    'TRIGGER:-PT30M',
    'END:VALARM',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n');

export async function signIn(secrets: Secrets): Promise<MonsoonClient> {
  const address = at(ports.service);
  if (secrets.token === undefined) {
    const cookies: string[] = [];
    const browser = new MonsoonClient({
      address,
      fetch: async (input, init) => {
        const headers = new Headers(init?.headers);
        headers.set('cookie', cookies.join('; '));
        const answer = await fetch(input, { ...init, headers });
        cookies.push(...answer.headers.getSetCookie().map((c) => c.split(';')[0]!));
        return answer;
      },
    });
    await browser.signIn(email, secrets.admin);
    secrets.token = (await browser.makeToken('demo', 'write')).token;
    keepSecrets(secrets);
  }
  // From this folder, the command line finds its way by itself.
  mkdirSync(join(root, '.monsoon'), { recursive: true, mode: 0o700 });
  writeFileSync(
    join(root, '.monsoon', 'cli.json'),
    JSON.stringify({ address, token: secrets.token, demo: { frontDesk: at(ports.frontDesk), token: secrets.frontDesk } }),
    { mode: 0o600 },
  );
  return new MonsoonClient({ address, token: secrets.token });
}
