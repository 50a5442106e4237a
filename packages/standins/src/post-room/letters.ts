import { appendFileSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { simpleParser } from 'mailparser';

/** A mail that came in. */
export interface Letter {
  /** its number, from 1: in every mailbox that it lies in */
  uid: number;
  at: string;
  from: string;
  to: string[];
  subject: string;
  text: string;
  html: string | null;
  headers: Record<string, string>;
  parts: { name: string; type: string; method: string | null; text: string }[];
  /** as it was handed over */
  raw: string;
}

/** The method of an iTIP part (RFC 6047, 2.4). */
const methodOf = (type: unknown): string | null => (type as { params?: { method?: string } } | undefined)?.params?.method?.toUpperCase() ?? null;

/** All mails of the house, in the order in which they came; kept in a file. */
export class Letters {
  readonly all: Letter[];
  readonly #file: string;
  readonly #listeners = new Set<(letter: Letter) => void>();

  constructor(file: string) {
    mkdirSync(dirname(file), { recursive: true });
    this.#file = file;
    const lines = existsSync(file) ? readFileSync(file, 'utf8').split('\n') : [];
    // What an earlier post room kept has neither number nor text as it came.
    this.all = lines
      .filter((line) => line.endsWith('}'))
      .map((line, i) => ({ uid: i + 1, headers: {}, raw: '', ...(JSON.parse(line) as Partial<Letter>) }) as Letter);
  }

  /** @param to the recipients, as the envelope names them */
  async take(raw: Buffer, to: string[]): Promise<Letter> {
    const mail = await simpleParser(raw, {});
    const letter: Letter = {
      uid: this.all.length + 1,
      at: new Date().toISOString(),
      from: mail.from?.text ?? '',
      to,
      subject: mail.subject ?? '',
      text: mail.text ?? '',
      html: mail.html === false ? null : (mail.html ?? null),
      headers: Object.fromEntries(mail.headerLines.map(({ key, line }) => [key, line.slice(line.indexOf(':') + 1).trim()])),
      parts: mail.attachments.map((a) => ({
        name: a.filename ?? '',
        type: a.contentType,
        method: methodOf(a.headers.get('content-type')),
        text: a.contentType.startsWith('text/') || a.contentType === 'application/ics' ? a.content.toString('utf8') : '',
      })),
      raw: raw.toString('latin1'),
    };
    this.all.push(letter);
    appendFileSync(this.#file, `${JSON.stringify(letter)}\n`);
    for (const listener of this.#listeners) listener(letter);
    return letter;
  }

  /** What lies in the mailbox of an address. */
  of(address: string): Letter[] {
    return this.all.filter((l) => l.to.some((to) => to.toLowerCase() === address.toLowerCase()));
  }

  /** @returns how to stop listening */
  listen(listener: (letter: Letter) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
