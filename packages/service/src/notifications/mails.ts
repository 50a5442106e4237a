import { type Mail, OutsideError } from '@monsoon/systems';
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import type { App } from '../app.ts';
import { notifications, systems } from '../storage/schema.ts';
import { deliver } from './webhooks.ts';

type Notification = typeof notifications.$inferSelect;

export interface MailBody {
  subject: string;
  text: string;
  html: string;
}

/** A part of a mail: a heading, lines of text, and where to go from there. */
export interface Part {
  title: string;
  lines: string[];
  /** in full, with the address of the installation */
  link?: { to: string; words: string };
}

export const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c);

/** The same in plain text and in HTML: one column that a telephone shows without scrolling sideways, without pictures or anything fetched. */
export function writeMail(subject: string, parts: Part[], foot: string): MailBody {
  const text = [
    ...parts.map((p) => [p.title, ...p.lines.map((l) => `  ${l}`), ...(p.link === undefined ? [] : [`  ${p.link.to}`])].join('\n')),
    `-- \n${foot}`,
  ].join('\n\n');
  const html = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escaped(subject)}</title></head>
<body style="margin:0;padding:16px;background:#f6f3ee;color:#2b2723;font:16px/1.5 system-ui,sans-serif">
<div style="max-width:36rem;margin:0 auto">
${parts
  .map(
    (p) => `<section style="background:#fffdfa;border:1px solid #ddd6cb;border-radius:6px;padding:12px 16px;margin:0 0 12px">
<h2 style="font-size:17px;margin:0 0 4px">${escaped(p.title)}</h2>
${p.lines.map((l) => `<p style="margin:0 0 4px;overflow-wrap:anywhere">${escaped(l)}</p>`).join('\n')}
${p.link === undefined ? '' : `<p style="margin:8px 0 0"><a href="${escaped(p.link.to)}" style="display:inline-block;padding:8px 14px;border:1px solid #2b2723;border-radius:5px;color:#2b2723;text-decoration:none">${escaped(p.link.words)}</a></p>`}
</section>`,
  )
  .join('\n')}
<p style="font-size:13px;color:#6d655b">${escaped(foot)}</p>
</div></body></html>
`;
  return { subject, text: `${text}\n`, html };
}

/** One mail with all notifications that a recipient has not got yet. */
function mailOf(app: App, waiting: Notification[]): MailBody {
  const [first] = waiting;
  const subject = first !== undefined && waiting.length === 1 ? first.subject : `Monsoon: ${waiting.length} things need you`;
  const parts = waiting.map((t): Part => ({ title: t.subject, lines: [t.text], link: { to: app.publicAddress() + t.path, words: 'Go there' } }));
  return writeMail(subject, parts, `You asked Monsoon to notify you of this: ${app.publicAddress()}/people`);
}

/** Sends a person, or another program, the notifications that are unsent and not over. The queue retries when it throws. */
export async function sendNotifications(app: App, to: string): Promise<void> {
  // The rows are locked while they are sent, so two jobs, or a job and the watchdog, send one mail.
  await app.db.transaction(async (tx) => {
    const waiting = await tx
      .select()
      .from(notifications)
      .where(and(eq(notifications.to, to), isNull(notifications.sentAt), isNull(notifications.overAt)))
      .orderBy(asc(notifications.id))
      .for('update', { skipLocked: true });
    if (waiting.length === 0) return;
    if (to.startsWith('hook:')) await deliver(app, to.slice(5), waiting);
    // Without a mail server it stays unsent, and goes out when one is connected.
    else if (!(await sendMail(app, [to], mailOf(app, waiting)))) return;
    const sent = waiting.map((t) => t.id);
    await tx.update(notifications).set({ sentAt: new Date().toISOString() }).where(inArray(notifications.id, sent));
  });
}

/** The first mail server that is connected, and the address it sends from; null: there is none. */
export async function mailSender(app: App): Promise<{ mail: Mail; address: string; system: string } | null> {
  const [row] = await app.db.select().from(systems).where(eq(systems.kind, 'mail')).orderBy(asc(systems.createdAt)).limit(1);
  const mail = row === undefined ? undefined : app.systems.open(row).mail;
  return mail === undefined || row === undefined ? null : { mail, address: mail.sender, system: row.id };
}

/** Sends a mail through the first mail server that is connected; false when there is none. @throws OutsideError when it does not take it */
export async function sendMail(app: App, to: string[], mail: MailBody): Promise<boolean> {
  const sender = await mailSender(app);
  if (sender === null) {
    app.log.warn('a mail was not sent: no mail server is connected');
    return false;
  }
  try {
    await sender.mail.send({ to, ...mail });
    return true;
  } catch (error) {
    if (error instanceof OutsideError) app.log.warn({ trouble: error.trouble }, 'a mail was not taken');
    throw error;
  }
}
