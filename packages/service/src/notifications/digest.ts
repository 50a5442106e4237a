import { failureReasons, responses, spanOf, toLocal, UTC, type When, type Zone } from '@monsoon/core';
import { and, count, eq, gt, inArray, isNotNull, isNull, notInArray, or, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import { guestLog, guests, holds, journal, lanes, pairs, people, systems, verdicts } from '../storage/schema.ts';
import { type Part, sendMail, writeMail } from './mails.ts';

const MOST_EVENTS = 40;
const written = ['create', 'create record', 'change', 'remove', 'remove record', 'adopt'];

/** Sends the digest to everybody whose hour has come today, by their own clock; once a day, however many processes look. */
export async function sendDigests(app: App, now = new Date().toISOString()): Promise<void> {
  const wanting = await app.db
    .select()
    .from(people)
    .where(and(isNull(people.disabledAt), isNotNull(people.notifications)));
  for (const person of wanting) {
    const digest = person.notifications?.digest;
    if (digest == null) continue;
    const zone = app.zones.find(digest.zone) ?? UTC;
    const clock = toLocal(Date.parse(now) / 1000, zone);
    const sentOn = person.digestAt === null ? '' : toLocal(Date.parse(person.digestAt) / 1000, zone).slice(0, 10);
    if (Number(clock.slice(11, 13)) < digest.hour || sentOn >= clock.slice(0, 10)) continue;
    // Taken before it is written: two processes that look at once send one.
    const [mine] = await app.db
      .update(people)
      .set({ digestAt: now })
      .where(and(eq(people.id, person.id), person.digestAt === null ? isNull(people.digestAt) : eq(people.digestAt, person.digestAt)))
      .returning({ id: people.id });
    if (mine === undefined) continue;
    try {
      await sendMail(app, [person.email], await writeDigest(app, zone, clock.slice(0, 10), now));
    } catch (error) {
      await app.db.update(people).set({ digestAt: person.digestAt }).where(eq(people.id, person.id));
      throw error;
    }
  }
}

/** What crossed in the last day, what waits, and today's events. */
export async function writeDigest(app: App, zone: Zone, day: string, now: string) {
  const since = new Date(Date.parse(now) - 86_400_000).toISOString();
  const link = (path: string, words: string) => ({ to: app.publicAddress() + path, words });
  const [crossed, open, failed, troubles, ailing, replies, unsent, events] = await Promise.all([
    app.db
      .select({ name: sql<string>`${lanes.definition} ->> 'name'`, n: count() })
      .from(journal)
      .innerJoin(lanes, eq(lanes.id, journal.lane))
      .where(and(gt(journal.at, since), inArray(journal.kind, written)))
      .groupBy(sql`1`)
      .orderBy(sql`1`),
    app.db
      .select({ name: sql<string>`${lanes.definition} ->> 'name'`, question: holds.question, n: count() })
      .from(holds)
      .innerJoin(lanes, eq(lanes.id, holds.lane))
      .where(eq(holds.state, 'open'))
      .groupBy(sql`1`, holds.question),
    app.db.$count(verdicts, inArray(verdicts.reason, [...failureReasons])),
    app.db
      .select({ name: sql<string>`${lanes.definition} ->> 'name'`, trouble: lanes.trouble })
      .from(lanes)
      .where(gt(lanes.failures, 0)),
    app.db
      .select({ name: systems.name, detail: systems.healthDetail })
      .from(systems)
      .where(or(eq(systems.healthState, 'failing'), isNotNull(systems.lapsedAt))),
    app.db
      .select({ what: guestLog.what, n: count() })
      .from(guestLog)
      .where(and(gt(guestLog.at, since), inArray(guestLog.what, [...responses])))
      .groupBy(guestLog.what)
      .orderBy(guestLog.what),
    app.db.$count(guests, inArray(guests.state, ['doubtful', 'refused'])),
    eventsOf(app, zone, day),
  ]);
  const waiting = [
    ...troubles.map((t) => `${t.name} has stopped: ${t.trouble ?? ''}`),
    ...ailing.map((s) => `${s.name}: ${s.detail}`),
    ...open.map((h) => `${h.name}: ${h.n} ${h.question}`),
    ...(unsent > 0 ? [`${unsent} ${unsent === 1 ? 'message to a guest was' : 'messages to guests were'} not taken, or may not have been`] : []),
    ...(failed > 0 ? [`${failed} ${failed === 1 ? 'item needs' : 'items need'} fixing`] : []),
  ];
  const parts: Part[] = [
    {
      title: waiting.length === 0 ? 'Nothing waits for you' : 'Waiting for you',
      lines: waiting,
      ...(waiting.length > 0 ? { link: link('/', 'Look') } : {}),
    },
    {
      title: 'Crossed in the last day',
      lines: crossed.length === 0 ? ['nothing'] : crossed.map((c) => `${c.name}: ${c.n}`),
      link: link('/runs', 'Runs'),
    },
    ...(replies.length === 0 ? [] : [{ title: 'Replies of guests in the last day', lines: replies.map((r) => `${r.n} ${r.what}`) }]),
    { title: `Today, ${day}`, lines: events.length === 0 ? ['no events'] : events },
  ];
  return writeMail(`Monsoon on ${day}`, parts, `Your daily digest, times by the clock of ${zone.name}. Change it at ${app.publicAddress()}/people`);
}

/** The events of a day that lanes stand for, by the clock of a zone. */
async function eventsOf(app: App, zone: Zone, day: string): Promise<string[]> {
  const near = (days: number) => new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
  const when = sql`(${pairs.baseline} -> 'event' -> 'when')`;
  const rows = await app.db
    .select({ label: pairs.label, when: sql<When>`${when}` })
    .from(pairs)
    .where(
      and(
        notInArray(pairs.state, ['unlinked', 'removed']),
        sql`coalesce(${when} ->> 'start', ${when} ->> 'first') < ${near(2)} and coalesce(${when} ->> 'end', '') >= ${near(-1)}`,
      ),
    )
    .limit(5000);
  const start = spanOf({ kind: 'all-day', first: day, end: near(1) }, zone, app.zones);
  const found = rows
    .map((r) => ({ ...r, span: spanOf(r.when, zone, app.zones) }))
    .filter((r) => r.span.from < start.until && r.span.until > start.from)
    .sort((a, b) => a.span.from - b.span.from);
  const lines = found
    .slice(0, MOST_EVENTS)
    .map((e) => `${e.when.kind === 'all-day' ? 'all day' : toLocal(e.span.from, zone).slice(11, 16)}  ${e.label}`);
  return found.length > MOST_EVENTS ? [...lines, `and ${found.length - MOST_EVENTS} more`] : lines;
}
