import { type AddressObject, type ParsedMail, simpleParser } from 'mailparser';
import type { IncomingMail } from '../interfaces.ts';

/** Parts of a mail that is looked into. */
const MOST_PARTS = 100;

/** Reads what may be an answer to an invitation in a mail. Limits come first: a mail is built by a stranger. @param checker whose word about the sender is taken */
export async function readMail({ uid, source, checker }: { uid: number; source: Uint8Array; checker: string | null }): Promise<IncomingMail> {
  const text = Buffer.from(source).toString('latin1');
  const parts = (text.match(/^content-type:/gim)?.length ?? 0) + (text.match(/^--/gm)?.length ?? 0) / 2;
  if (parts > MOST_PARTS) return unreadMail(uid, source, `it has more than ${MOST_PARTS} parts, which is the most that are read`);
  try {
    const mail = await simpleParser(Buffer.from(source), { skipHtmlToText: true, skipTextToHtml: true, skipImageLinks: true });
    const part = mail.attachments.find((a) => a.contentType === 'text/calendar');
    return {
      uid,
      from: senderOf(mail),
      senderFailed: checker !== null && failsCheck(mail, checker),
      calendar: part === undefined ? null : part.content.toString('utf8'),
      unread: null,
    };
  } catch (error) {
    return unreadMail(uid, source, (error as Error).message);
  }
}

/** A mail that is not read, with its subject so that a person can find it. */
export function unreadMail(uid: number, source: Uint8Array | null, reason: string): IncomingMail {
  const subject =
    source === null ? undefined : /^subject:[ \t]*([^\r\n]{1,100})/im.exec(Buffer.from(source.subarray(0, 20_000)).toString('latin1'))?.[1];
  return { uid, from: [], senderFailed: false, calendar: null, unread: `${subject === undefined ? '' : `"${subject}": `}${reason}` };
}

/** Who sent it: one address, in one From; none where several are named, because then it is not clear who speaks (RFC 5322, 3.6.2). */
function senderOf(mail: ParsedMail): string[] {
  const lines = mail.headerLines.filter((l) => l.key === 'from').length;
  const named = [mail.from].flat().flatMap((from: AddressObject | undefined) => from?.value ?? []);
  const [only, ...others] = named;
  if (lines !== 1 || others.length > 0 || only?.address === undefined || only.group !== undefined) return [];
  return [only.address.toLowerCase()];
}

/** Does the receiving server say that the sender is not who the mail names (RFC 8601, 2.2)? Only its own word counts: a mail may bring others. */
function failsCheck(mail: ParsedMail, checker: string): boolean {
  const results = mail.headerLines
    .filter((l) => l.key === 'authentication-results')
    .map((l) => l.line.replace(/^[^:]*:/, '').replace(/\([^()]*\)/g, ' '))
    .filter((text) => text.trim().split(/[\s;]/)[0]?.toLowerCase() === checker.toLowerCase());
  const said = (method: string) =>
    results.flatMap((text) => [...text.matchAll(new RegExp(`\\b${method}\\s*=\\s*(\\w+)`, 'gi'))].map((m) => (m[1] ?? '').toLowerCase()));
  const failed = (method: string) => said(method).some((r) => r === 'fail' || r === 'hardfail' || r === 'permerror');
  if (said('dmarc').length > 0) return failed('dmarc');
  return (failed('spf') || failed('dkim')) && !said('dkim').includes('pass') && !said('spf').includes('pass');
}
