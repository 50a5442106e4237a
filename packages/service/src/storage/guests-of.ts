import type { Invitation, KnownGuest } from '@monsoon/core';
import { sql } from 'drizzle-orm';
import type { Batch, GuestUpdate } from '../run/store.ts';
import type { Database, Transaction } from './database.ts';
import { guestLog, guests } from './schema.ts';

/** What is noted of the guests of some pairs. */
export async function knownGuests(db: Database, pairs: string[]): Promise<KnownGuest[]> {
  if (pairs.length === 0) return [];
  const rows = await db
    .select()
    .from(guests)
    .where(sql`${guests.pair} = any(${sql.param(pairs)}::uuid[])`);
  return rows.map((row) => ({
    pair: row.pair,
    email: row.email,
    name: row.name,
    knows: assumed(row),
    reply: row.replyPending ? row.reply : null,
    seen: { response: row.reply, delivery: row.delivery },
    proposal: row.proposal,
  }));
}

/** What is on its way, or may have come, counts as known: only news is sent again. */
const assumed = ({ state, method, invitation, knows }: typeof guests.$inferSelect): Invitation | null =>
  state === 'sending' || state === 'doubtful' || state === 'refused' ? (method === 'CANCEL' ? null : invitation) : knows;

/** What was sent in the last day, or waits, by address. */
export async function mailsToday(db: Database, emails: string[]): Promise<Map<string, number>> {
  if (emails.length === 0) return new Map();
  const { rows } = await db.execute<{ email: string; n: number }>(sql`
    select email, count(*)::int as n from (
      select email from guest_log where email = any(${sql.param(emails)}::text[]) and at > now() - interval '1 day' and what in ('invited', 'updated', 'cancelled')
      union all select email from guests where email = any(${sql.param(emails)}::text[]) and state in ('waiting', 'sending')
    ) as mails group by email`);
  return new Map(rows.map((r) => [r.email, r.n]));
}

/** Where the lane stands with its guests. */
interface Writing {
  lane: string;
  run: string;
}

/**
 * Notes the messages that guests are to get: one that waits already becomes the newer message, or none. It is one transaction
 * with the journal; the messages are sent afterwards.
 */
export async function writeGuests(tx: Transaction, { lane, run }: Writing, batch: Batch): Promise<void> {
  const changes = batch.guests ?? [];
  if (changes.length > 0 && batch.invitations !== undefined) {
    const { by, wait } = batch.invitations;
    await noteGuests(tx, { lane, run }, changes, { scheduled: by === 'calendar server', wait });
  }
  if (batch.answers !== undefined && batch.answers.length > 0) await noteAnswers(tx, { lane, run }, batch.answers);
  const replied = batch.replied ?? [];
  if (batch.seen !== undefined && batch.seen.length > 0) await noteSeen(tx, { lane, run }, batch.seen);
  if (replied.length > 0)
    await tx.execute(sql`
      update guests g set reply_pending = false from jsonb_to_recordset(${JSON.stringify(replied)}::jsonb) as r(pair uuid, email text, reply text)
      where g.pair = r.pair and g.email = r.email and g.reply = r.reply`);
}

/** What events newly say of their guests: replies, and what the calendar server says of the delivery (RFC 6638, 3.2.9). */
async function noteSeen(tx: Transaction, { lane, run }: Writing, seen: NonNullable<Batch['seen']>): Promise<void> {
  const rows = JSON.stringify(seen.map((s) => ({ ...s, failed: s.delivery !== undefined && hasFailed(s.delivery), said: sayDelivery(s.delivery) })));
  const given = sql`jsonb_to_recordset(${rows}::jsonb) as s(pair uuid, email text, response text, delivery text, failed boolean, said text)`;
  // A reply that came by mail meanwhile is about to be written on the event.
  const takes = sql`(s.response is not null and not g.reply_pending)`;
  const { rows: noted } = await tx.execute<{ pair: string; email: string }>(sql`
    update guests g set
      reply = case when not ${takes} then g.reply when s.response = 'needs action' then null else s.response end,
      reply_via = case when ${takes} then 'calendar' else g.reply_via end,
      reply_stamp = case when ${takes} then now() else g.reply_stamp end,
      comment = case when not ${takes} then g.comment end,
      delivery = coalesce(s.delivery, g.delivery),
      state = case when s.failed and g.state = 'sent' then 'refused' when s.delivery is not null and not s.failed and g.delivery is not null and g.state = 'refused' then 'sent' else g.state end,
      trouble = case when s.failed then s.said when s.delivery is not null then null else g.trouble end,
      updated_at = now()
    from ${given} where g.pair = s.pair and g.email = s.email returning g.pair, g.email`);
  const is = new Set(noted.map((n) => `${n.pair} ${n.email}`));
  const entries = seen
    .filter((s) => is.has(`${s.pair} ${s.email}`))
    .flatMap(({ pair, email, response, delivery }) => [
      ...(response === undefined
        ? []
        : [{ lane, pair, email, run, what: response === 'needs action' ? 'reply taken back' : response, detail: 'on the calendar' }]),
      ...(delivery === undefined
        ? []
        : [{ lane, pair, email, run, what: hasFailed(delivery) ? 'refused' : 'delivery', detail: sayDelivery(delivery) }]),
    ]);
  if (entries.length > 0) await tx.insert(guestLog).values(entries);
}

/** RFC 5545, 3.8.8.3: what begins with 1 is under way, with 2 it is done. */
const hasFailed = (delivery: string): boolean => !/^[12]\./.test(delivery);

const deliveries: [RegExp, string][] = [
  [/^1\.0/, 'is sending it'],
  [/^1\.1/, 'has sent it'],
  [/^(1\.2|2\.)/, 'has delivered it'],
  [/^3\.7/, 'does not take this for an address of somebody who can be invited'],
  [/^3\.8/, 'may not invite them'],
  [/^5\.[123]/, 'could not deliver it'],
];
/** RFC 6638, 3.2.9 */
const sayDelivery = (delivery = ''): string =>
  `the calendar server ${deliveries.find(([code]) => code.test(delivery))?.[1] ?? 'did not invite them'} (${delivery})`;

/**
 * Proposals that a person has answered; who is declined hears of it (RFC 5546, 3.2.8), unless other news is on its way. One that
 * came meanwhile is another, and waits for an answer of its own.
 */
async function noteAnswers(tx: Transaction, { lane, run }: Writing, answers: NonNullable<Batch['answers']>): Promise<void> {
  const given = sql`jsonb_to_recordset(${JSON.stringify(answers)}::jsonb) as a(pair uuid, email text, proposal jsonb, declined boolean)`;
  await tx.execute(sql`
    update guests g set proposal = g.proposal || '{"answered": true}', run = ${run}::uuid,
      method = case when a.declined and g.state <> 'waiting' then 'DECLINECOUNTER' else g.method end,
      due_at = case when a.declined and g.state <> 'waiting' then now() else g.due_at end,
      state = case when a.declined then 'waiting' else g.state end
    from ${given} where g.pair = a.pair and g.email = a.email and g.proposal = a.proposal`);
  await addInviteJob(tx, lane);
}

async function noteGuests(tx: Transaction, { lane, run }: Writing, changes: GuestUpdate[], how: { scheduled: boolean; wait: number }): Promise<void> {
  const rows = JSON.stringify(
    changes.map(({ pair, email, name, knows, invitation, notice }) => ({
      pair,
      email,
      name,
      knows,
      invitation,
      method: notice?.method ?? null,
      why: notice?.why ?? '',
      uninvited: notice?.uninvited ?? false,
      // Who leaves without a message is no guest any more.
      gone: notice === null && invitation === null,
    })),
  );
  const given = sql`jsonb_to_recordset(${rows}::jsonb) as c(pair uuid, email text, name text, knows jsonb, invitation jsonb, method text, why text, uninvited boolean, gone boolean)`;
  await tx.execute(sql`delete from guests g using ${given} where c.gone and g.pair = c.pair and g.email = c.email`);
  // Guests without news, and those whom the calendar server writes to, know of the event now.
  const said = sql`(c.method is null or ${how.scheduled})`;
  // The message that was sent last, or is on its way, is not sent once more: what this was planned from may be a moment old.
  const again = sql`(excluded.state = 'waiting' and g.state not in ('waiting', 'known') and g.method = excluded.method
    and g.invitation - 'sequence' - 'guests' is not distinct from excluded.invitation - 'sequence' - 'guests')`;
  await tx.execute(sql`
    insert into guests as g (lane, pair, email, name, state, knows, invitation, method, why, uninvited, due_at, run, sent_at)
    select ${lane}::uuid, c.pair, c.email, c.name, case when not ${said} then 'waiting' when c.method is null then 'known' else 'sent' end,
           case when ${said} then c.invitation else c.knows end, c.invitation, c.method, c.why, c.uninvited,
           case when ${said} then null else now() + make_interval(secs => ${how.wait}::int) end, ${run}::uuid,
           case when c.method is not null and ${how.scheduled} then now() end
    from ${given} where not c.gone
    on conflict (pair, email) do update set
      name = coalesce(excluded.name, g.name),
      -- Without news, the last message stays the last one.
      state = case when ${again} then g.state when excluded.state = 'known' and g.sent_at is not null then 'sent' else excluded.state end,
      knows = case when excluded.state = 'waiting' then g.knows else excluded.knows end,
      invitation = excluded.invitation, method = coalesce(excluded.method, g.method), why = excluded.why, uninvited = excluded.uninvited,
      -- Edits within the wait become one message, which the last of them does not put off.
      due_at = case when excluded.state <> 'waiting' or ${again} then null when g.state = 'waiting' then least(g.due_at, excluded.due_at) else excluded.due_at end,
      run = excluded.run, sent_at = coalesce(excluded.sent_at, g.sent_at), 
      attempts = case when ${again} then g.attempts else 0 end, trouble = case when ${again} then g.trouble end, updated_at = now()`);
  const sent = changes.flatMap(({ pair, email, knows, notice }) =>
    notice === null ? [] : [{ pair, email, what: whatOf(notice.method, knows !== null), notice }],
  );
  if (how.scheduled && sent.length > 0)
    await tx
      .insert(guestLog)
      .values(sent.map(({ pair, email, what, notice }) => ({ lane, pair, email, what, run, detail: `by the calendar server: ${notice.why}` })));
  if (!how.scheduled && sent.length > 0) await addInviteJob(tx, lane);
}

/** What a message does, in a word of the log. */
export const whatOf = (method: 'REQUEST' | 'CANCEL' | 'DECLINECOUNTER', knewBefore: boolean): string =>
  method === 'REQUEST' ? (knewBefore ? 'updated' : 'invited') : method === 'CANCEL' ? 'cancelled' : 'proposal declined';

/** Has what waits for a lane's guests sent when it is due. Where nothing waits, nothing is done. */
export async function addInviteJob(db: Database | Transaction, lane: string): Promise<void> {
  await db.execute(sql`
    select graphile_worker.add_job('invite', payload := ${JSON.stringify({ lane })}::json, queue_name := ${`invite:${lane}`},
      run_at := due, job_key := ${`invite:${lane}`}, job_key_mode := 'replace')
    from (select min(due_at) as due from guests where lane = ${lane} and state = 'waiting') as waiting where due is not null`);
}
