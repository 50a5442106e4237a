import type { Letter } from './letters.ts';

/** How a guest's program may answer an invitation. */
export const answers = ['ACCEPTED', 'TENTATIVE', 'DECLINED'] as const;
export type Answer = (typeof answers)[number];

/** The invitation that a mail carries; null: it carries none, or one that asks for no answer. */
export const invitationIn = (letter: Letter): string | null =>
  letter.parts.find((p) => p.type === 'text/calendar' && /^METHOD:REQUEST\r?$/m.test(p.text))?.text ?? null;

/** The time that is proposed instead: days later. */
export interface Proposal {
  days: number;
}

/**
 * What a guest's calendar program would send back (RFC 5546, 3.2.3 and 3.2.7; RFC 6047), as a mail.
 * @returns it, and whom it goes to
 */
export function answerTo(letter: Letter, invitation: string, answer: Answer | Proposal): { raw: Buffer; to: string } {
  const all = invitation.replace(/\r?\n[ \t]/g, '').split(/\r?\n/);
  // The definition of a zone has a DTSTART too.
  const lines = all.slice(all.indexOf('BEGIN:VEVENT'));
  const of = (name: string) => lines.find((l) => l.startsWith(`${name};`) || l.startsWith(`${name}:`)) ?? '';
  const to = /:mailto:([^:"]+)$/i.exec(of('ORGANIZER'))?.[1] ?? letter.from;
  const self = letter.to[0]!;
  const now = new Date().toISOString().replace(/[-:]|\.\d+/g, '');
  const counters = typeof answer === 'object';
  const partstat = counters ? 'TENTATIVE' : answer;
  const later = (line: string) =>
    counters
      ? line.replace(/(\d{8})(?=T\d{6}|$)/, (day) =>
          new Date(Date.UTC(+day.slice(0, 4), +day.slice(4, 6) - 1, +day.slice(6, 8) + answer.days)).toISOString().slice(0, 10).replaceAll('-', ''),
        )
      : line;
  const calendar = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Alder & Wren//Post room//EN',
    `METHOD:${counters ? 'COUNTER' : 'REPLY'}`,
    'BEGIN:VEVENT',
    of('UID'),
    of('SEQUENCE'),
    `DTSTAMP:${now}`,
    later(of('DTSTART')),
    later(of('DTEND')),
    of('RECURRENCE-ID'),
    of('SUMMARY'),
    of('ORGANIZER'),
    `ATTENDEE;PARTSTAT=${partstat}:mailto:${self}`,
    'END:VEVENT',
    'END:VCALENDAR',
  ];
  const boundary = `part-${now}-${Math.random().toString(36).slice(2)}`;
  const raw = [
    `From: ${self}`,
    `To: ${to}`,
    `Subject: ${counters ? 'Another time' : partstat.toLowerCase()}: ${letter.subject.replace(/[^\x20-\x7e]/g, '?')}`,
    `Date: ${new Date().toUTCString()}`,
    `Message-ID: <${boundary}@post.example>`,
    'MIME-Version: 1.0',
    `Content-Type: multipart/alternative; boundary="${boundary}"`,
    '',
    `--${boundary}`,
    'Content-Type: text/plain; charset=utf-8',
    '',
    `${self}: ${partstat.toLowerCase()}`,
    `--${boundary}`,
    `Content-Type: text/calendar; method=${counters ? 'COUNTER' : 'REPLY'}; charset=utf-8`,
    'Content-Transfer-Encoding: base64',
    '',
    (
      Buffer.from(`${calendar.filter((l) => l !== '').join('\r\n')}\r\n`)
        .toString('base64')
        .match(/.{1,76}/g) ?? []
    ).join('\r\n'),
    `--${boundary}--`,
    '',
  ].join('\r\n');
  return { raw: Buffer.from(raw), to };
}
