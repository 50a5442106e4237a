import type { RunAnswer } from '@monsoon/contract';
import type { MonsoonClient } from '@monsoon/contract/client';
import type { HireBook } from './hire-book.ts';
import { diary, eventByHand, frontDesk } from './office.ts';
import { type Secrets, say } from './places.ts';

type Follow = (client: MonsoonClient, lane: string, run: RunAnswer) => Promise<RunAnswer>;
const ics = { 'content-type': 'text/calendar; charset=utf-8' };

/** One question of each kind waits for a person: a conflict, a departure, which of two events it is, and a run that the guard held. */
export async function leaveQuestions(client: MonsoonClient, secrets: Secrets, hireBook: HireBook, follow: Follow): Promise<void> {
  const visits = (await client.items('tuning-visits', { state: 'in sync', limit: 40 })).items;
  const [reworded, deleted] = [visits[6] ?? visits[0]!, visits[9] ?? visits[1]!];
  await reword(client, secrets, reworded.recordId!);
  await diary(secrets, 'DELETE', (await client.item('tuning-visits', deleted.recordId!)).event.href!, {});
  await enterTwice(client, secrets, visits[12]?.recordId ?? visits[2]!.recordId!);
  await follow(client, 'tuning-visits', await client.run('tuning-visits'));
  // Somebody tidies up in the Hire book, and takes away more leave than one run may remove.
  await hireBook.administer('delete from leave where id in (select id from leave order by id desc limit 5)');
  await follow(client, 'leave', await client.run('leave'));
  say('\nFour questions wait for a person, one of each kind: npx monsoon');
}

/** Two people reword and move the same visit, one here and one there. */
async function reword(client: MonsoonClient, secrets: Secrets, visit: string): Promise<void> {
  const { href } = (await client.item('tuning-visits', visit)).event;
  const text = await diary(secrets, 'GET', href!, {});
  const [, before = ''] = /^SUMMARY:(.*?)\r?$/m.exec(text) ?? [];
  const reworded = text.replace(/^SUMMARY:.*$/m, `SUMMARY:${before.replace(/(\\, .*)?$/, '\\, Alder upright\\, two pedals')}`);
  const { start } = await frontDesk<{ start: string }>(secrets, 'GET', `/visits/${visit}`);
  await frontDesk(secrets, 'PATCH', `/visits/${visit}`, { instrument: 'Alder upright 122', start: `${start.slice(0, 10)}T09:00:00` });
  // Its zone has a DTSTART, too: only the event itself is moved.
  const at = reworded.indexOf('BEGIN:VEVENT');
  const moved = reworded
    .slice(at)
    .replace(/^(DTSTART|DTEND)([^:]*:\d{8}T)(\d\d)/gm, (_all, name: string, day: string) => `${name}${day}${name === 'DTSTART' ? 15 : 17}`);
  await diary(secrets, 'PUT', href!, ics, reworded.slice(0, at) + moved);
}

/** Two people have entered the same visit by hand, before the Front desk has. */
async function enterTwice(client: MonsoonClient, secrets: Secrets, like: string): Promise<void> {
  const { definition } = await client.lane('tuning-visits');
  const known = await frontDesk<{ customer: { id: string; name: string } | null; kind: string }>(secrets, 'GET', `/visits/${like}`);
  const day = new Date(Date.now() + 17 * 86_400_000).toISOString().slice(0, 10);
  const clock = (hour: string) => `${day.replaceAll('-', '')}T${hour}0000`;
  for (const who of ['tom', 'una'])
    await diary(
      secrets,
      'PUT',
      `${definition.calendar.calendar}by-${who}.ics`,
      ics,
      eventByHand(`by-${who}`, clock('16'), clock('17'), `${known.customer?.name ?? ''}: tuning\\, Wren boudoir grand`),
    );
  await frontDesk(secrets, 'POST', '/visits', {
    start: `${day}T16:00:00`,
    time_zone: 'Europe/London',
    length_minutes: 60,
    kind: 'tuning',
    status: 'booked',
    customer_id: known.customer?.id,
    instrument: 'Wren boudoir grand',
  });
}
