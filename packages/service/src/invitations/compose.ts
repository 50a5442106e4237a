import { type Attendee, type Invitation, type Notice, writeItip, type Zone, type ZoneTable } from '@monsoon/core';
import type { Message } from '@monsoon/systems';
import { escaped } from '../notifications/mails.ts';
import { linesOf, sayTimeIn } from './say-event.ts';

/** A message to one guest. */
export interface Letter {
  to: { email: string; name: string | null };
  method: Notice['method'] | 'DECLINECOUNTER';
  uninvited: boolean;
  /** the guest knew of the event: it is an update */
  knewBefore: boolean;
  why: string;
  /** the event as it is, or was */
  invitation: Invitation;
  sequence: number;
  messageId: string;
  /** the address that sends it */
  sender: string;
  /** where the guest replies without a calendar program; null: there is nothing to reply to */
  replyAt: string | null;
  /** the guest's own clock, where it is known */
  zone: Zone | null;
  /** RFC 3339 */
  now: string;
}

const opening = ({ method, knewBefore, uninvited }: Letter): string =>
  method === 'DECLINECOUNTER'
    ? 'The time stays as it was'
    : method === 'CANCEL'
      ? uninvited
        ? 'You are not invited any more'
        : 'Cancelled'
      : knewBefore
        ? 'Changed'
        : 'Invitation';

const answers = [
  ['accepted', 'I will come'],
  ['tentative', 'I may come'],
  ['declined', 'I cannot come'],
] as const;

/** The mail that carries a message (RFC 6047): text, HTML and iCalendar say the same. */
export function compose(letter: Letter, zones: ZoneTable): Message {
  const { invitation, to, sender } = letter;
  const organizer: Attendee = invitation.organizer ?? { email: sender };
  const title = invitation.title ?? 'An appointment';
  const subject = `${opening(letter)}: ${title}`;
  const lines = linesOf(invitation, letter.zone === null || invitation.when === null ? null : sayTimeIn(invitation.when, letter.zone, zones));
  const from = organizer.name ?? organizer.email;
  const why = letter.method === 'REQUEST' && letter.knewBefore ? `What is new: ${letter.why}.` : null;
  const cancels = letter.method === 'CANCEL';
  const self: Attendee = { email: to.email, ...(to.name === null ? {} : { name: to.name }) };
  const others = invitation.guests.filter((g) => g.email.toLowerCase() !== to.email);
  const own = invitation.guests.find((g) => g.email.toLowerCase() === to.email) ?? self;
  const { response: _asked, ...guest } = own;
  return {
    to: [to.email],
    subject,
    text: plainText({ title, subject, lines, from, why, replyAt: letter.replyAt }),
    html: page({ title, subject, lines, from, why, replyAt: letter.replyAt }),
    calendar: {
      method: letter.method,
      text: writeItip(
        {
          method: letter.method,
          uninvited: letter.uninvited,
          invitation,
          guests: cancels && letter.uninvited ? [guest] : [guest, ...others],
          organizer,
          sentBy: organizer.email.toLowerCase() === sender.toLowerCase() ? null : sender,
          sequence: letter.sequence,
          now: letter.now,
        },
        zones,
      ),
    },
    messageId: letter.messageId,
    replyTo: organizer.email,
    senderName: from,
  };
}

interface Said {
  title: string;
  subject: string;
  lines: [string, string][];
  from: string;
  why: string | null;
  replyAt: string | null;
}

const address = (replyAt: string, answer: string) => `${replyAt}?answer=${answer}`;

function plainText({ subject, lines, from, why, replyAt }: Said): string {
  const width = Math.max(...lines.map(([name]) => name.length), 4) + 2;
  return `${[
    subject,
    ...(why === null ? [] : [why]),
    lines.map(([name, value]) => `${name.padEnd(width)}${value.replaceAll('\n', `\n${' '.repeat(width)}`)}`).join('\n'),
    `From ${from}.`,
    ...(replyAt === null ? [] : [answers.map(([answer, words]) => `${words}:\n${address(replyAt, answer)}`).join('\n')]),
  ].join('\n\n')}\n`;
}

/** One column that a telephone shows without scrolling sideways, without pictures or anything fetched. */
const page = ({ title, subject, lines, from, why, replyAt }: Said): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escaped(subject)}</title></head>
<body style="margin:0;padding:16px;background:#f6f3ee;color:#2b2723;font:16px/1.5 system-ui,sans-serif">
<div style="max-width:34rem;margin:0 auto;background:#fffdfa;border:1px solid #ddd6cb;border-radius:6px;padding:16px">
<p style="margin:0;color:#6d655b">${escaped(subject.slice(0, subject.length - title.length - 2))}</p>
<h1 style="font-size:20px;line-height:1.3;margin:0 0 8px;overflow-wrap:anywhere">${escaped(title)}</h1>
${why === null ? '' : `<p style="margin:0 0 8px"><strong>${escaped(why)}</strong></p>`}
<table role="presentation" style="border-collapse:collapse;width:100%">
${lines.map(([name, value]) => `<tr><td style="padding:2px 12px 2px 0;color:#6d655b;vertical-align:top">${escaped(name)}</td><td style="padding:2px 0;overflow-wrap:anywhere">${escaped(value).replaceAll('\n', '<br>')}</td></tr>`).join('\n')}
</table>
<p style="margin:8px 0 0;color:#6d655b">From ${escaped(from)}</p>
${replyAt === null ? '' : `<p style="margin:16px 0 0">${answers.map(([answer, words]) => `<a href="${escaped(address(replyAt, answer))}" style="display:inline-block;margin:0 8px 8px 0;padding:10px 14px;border:1px solid #2b2723;border-radius:5px;color:#2b2723;text-decoration:none">${words}</a>`).join('')}</p>`}
</div></body></html>
`;
