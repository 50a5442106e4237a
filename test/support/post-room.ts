import { expect } from 'chai';
import ICAL from 'ical.js';
import nodemailer from 'nodemailer';
import { startStandin } from './front-desk.ts';

/** A mail as the post room shows it. */
export interface Mail {
  from: string;
  to: string[];
  subject: string;
  text: string;
  html: string | null;
  headers: Record<string, string>;
  parts: { type: string; text: string }[];
}

/** What a program that takes iTIP (RFC 5546) must find in a message; an independent reader. */
export function readItip(mail: Mail) {
  const part = mail.parts.find((p) => p.type === 'text/calendar');
  expect(part, 'a calendar part').to.not.equal(undefined);
  const calendar = new ICAL.Component(ICAL.parse(part!.text));
  const events = calendar.getAllSubcomponents('vevent');
  expect(events).to.have.length(1);
  const event = events[0]!;
  const value = (name: string) => event.getFirstPropertyValue(name);
  for (const name of ['uid', 'dtstamp', 'organizer', 'sequence']) expect(value(name), name).to.not.equal(null);
  expect(calendar.getFirstPropertyValue('version')).to.equal('2.0');
  expect(
    part!.text.split('\r\n').every((line) => Buffer.byteLength(line) <= 75),
    'lines of 75 octets',
  ).to.equal(true);
  expect(part!.text).to.not.match(/X-MONSOON|VALARM/);
  return {
    method: String(calendar.getFirstPropertyValue('method')),
    uid: String(value('uid')),
    sequence: Number(value('sequence')),
    start: String(value('dtstart')),
    status: value('status') === null ? null : String(value('status')),
    organizer: String(value('organizer')),
    guests: event.getAllProperties('attendee').map((a) => ({ address: String(a.getFirstValue()), partstat: a.getParameter('partstat') })),
    zones: calendar.getAllSubcomponents('vtimezone').map((z) => String(z.getFirstPropertyValue('tzid'))),
  };
}

/** The maps of a lane with guests. */
export const guestFields = {
  title: { join: '{kind}[, {instrument}]', edit: 'instrument' },
  location: { copy: 'notes', direction: '->' },
  attendees: { copy: 'guests' },
  organizer: { fixed: 'visits@alder-wren.example' },
  replies: { replies: 'replies', as: 'list' },
};
/** What tests of guests change in the lane of the demo. */
export const guestLane = {
  direction: '<->',
  may: { records: { create: false, remove: false } },
  filter: null,
  private: null,
  conflicts: { rule: 'hold' },
  fields: guestFields,
};
export const ada = { name: 'Ada Lark', email: 'ada.lark@post.example' };
export const ben = { name: 'Ben Moor', email: 'ben.moor@post.example' };

export interface PostRoom {
  /** of a mail system that sends through it, and reads the mailbox of the visits */
  system: { slug: string; name: string; kind: string; settings: Record<string, unknown>; secrets: Record<string, string> };
  mails(): Promise<Mail[]>;
  /** answers a mail as the calendar program of its reader does */
  answer(mail: number, form: Record<string, string>): Promise<void>;
  /** puts a mail into the mailbox of the visits, as it stands */
  deliver(raw: string): Promise<void>;
  stop(): void;
}

const visits = 'visits@alder-wren.example';

/** @param faults how often it misbehaves, such as `lost-answer=0.1` */
export async function openPostRoom(faults = ''): Promise<PostRoom> {
  const room = await startStandin('post-room', ['--smtp-port', '0', '--user', 'monsoon:post', '--faults', faults]);
  const port = (protocol: string) => Number(new RegExp(`${protocol}://127\\.0\\.0\\.1:(\\d+)`).exec(room.said)![1]);
  return {
    system: {
      slug: 'post',
      name: 'Post',
      kind: 'mail',
      settings: {
        address: `smtp://127.0.0.1:${port('smtp')}`,
        from: visits,
        user: 'monsoon',
        mailbox: `imap://127.0.0.1:${port('imap')}`,
        mailboxUser: visits,
      },
      secrets: { password: 'post' },
    },
    mails: async () => ((await (await fetch(`${room.address}/api/mails`)).json()) as { items: Mail[] }).items,
    answer: async (mail, form) => void (await fetch(`${room.address}/mails/${mail}`, { method: 'POST', body: new URLSearchParams(form) })),
    async deliver(raw) {
      const transport = nodemailer.createTransport({ host: '127.0.0.1', port: port('smtp'), auth: { user: 'monsoon', pass: 'post' } });
      await transport.sendMail({ envelope: { from: 'guest@post.example', to: visits }, raw });
      transport.close();
    },
    stop: room.stop,
  };
}
