import { createServer, type Server, type Socket } from 'node:net';
import type { Letter, Letters } from './letters.ts';

/** Longest line that a client may send. */
const LONGEST_LINE = 8192;
/** One generation of mailboxes: numbers are never given again. */
const UID_VALIDITY = 1;
const CAPABILITIES = 'IMAP4rev1 IDLE SASL-IR AUTH=PLAIN';

/**
 * Mailboxes over IMAP4rev1 (RFC 3501) with IDLE (RFC 2177): the part of it that a program needs that reads its inbox. Each
 * address is an account; the password is the house's.
 */
export const imapServer = (letters: Letters, password: string | undefined): Server =>
  createServer((socket) => new Session(socket, letters, password));

class Session {
  readonly #socket: Socket;
  readonly #letters: Letters;
  readonly #password: string | undefined;
  #address: string | null = null;
  #selected = false;
  readonly #seen = new Set<number>();
  #rest = '';
  /** what the next line goes to, where a command waits for one */
  #goOn: ((line: string) => void) | null = null;
  #stopListening: () => void = () => undefined;

  constructor(socket: Socket, letters: Letters, password: string | undefined) {
    this.#socket = socket;
    this.#letters = letters;
    this.#password = password;
    socket.setEncoding('latin1');
    socket.on('data', (text) => this.#take(String(text)));
    socket.on('error', () => socket.destroy());
    socket.on('close', () => this.#stopListening());
    this.#say(`* OK [CAPABILITY ${CAPABILITIES}] the post room of Alder & Wren`);
  }

  #say(line: string): void {
    this.#socket.write(`${line}\r\n`, 'latin1');
  }

  #take(text: string): void {
    this.#rest += text;
    for (let end = this.#rest.indexOf('\r\n'); end >= 0; end = this.#rest.indexOf('\r\n')) {
      const line = this.#rest.slice(0, end);
      this.#rest = this.#rest.slice(end + 2);
      const goOn = this.#goOn;
      this.#goOn = null;
      if (goOn !== null) goOn(line);
      else this.#command(line);
    }
    if (this.#rest.length > LONGEST_LINE) this.#socket.destroy();
  }

  #command(line: string): void {
    const [, tag, name, rest = ''] = /^(\S+) (UID \S+|\S+) ?(.*)$/i.exec(line) ?? [];
    if (tag === undefined || name === undefined) {
      this.#say('* BAD what is asked for is not understood');
      return;
    }
    const verb = name.toUpperCase();
    const answer = this.#answer(tag, verb, rest);
    if (answer !== null) this.#say(`${tag} ${answer}`);
    if (verb === 'LOGOUT') this.#socket.end();
  }

  /** @returns what ends the command; null: it goes on with a line of its own */
  #answer(tag: string, verb: string, rest: string): string | null {
    switch (verb) {
      case 'CAPABILITY':
        this.#say(`* CAPABILITY ${CAPABILITIES}`);
        return 'OK these';
      case 'NOOP':
      case 'CHECK':
        return 'OK nothing';
      case 'LOGOUT':
        this.#say('* BYE');
        return 'OK bye';
      case 'LOGIN': {
        const words = [...rest.matchAll(/"((?:[^"\\]|\\.)*)"|(\S+)/g)].map((m) => (m[1] ?? m[2] ?? '').replace(/\\(.)/g, '$1'));
        return this.#signIn(words[0] ?? '', words[1] ?? '');
      }
      case 'AUTHENTICATE':
        return this.#authenticate(tag, rest);
      default:
        return this.#signedIn(tag, verb, rest);
    }
  }

  #signedIn(tag: string, verb: string, rest: string): string | null {
    if (this.#address === null) return 'NO sign in first';
    switch (verb) {
      case 'LIST':
      case 'LSUB':
        this.#say(`* ${verb} (\\HasNoChildren) "/" INBOX`);
        return 'OK one';
      case 'SELECT':
      case 'EXAMINE':
        return this.#select(verb === 'EXAMINE');
      default:
        return this.#selected ? this.#inMailbox(tag, verb, rest) : 'NO select a mailbox first';
    }
  }

  #inMailbox(tag: string, verb: string, rest: string): string | null {
    const [, set = '', what = ''] = /^(\S+) (.*)$/.exec(rest) ?? [];
    switch (verb) {
      case 'CLOSE':
      case 'UNSELECT':
        this.#selected = false;
        return 'OK closed';
      case 'IDLE':
        return this.#idle(tag);
      case 'UID SEARCH':
        this.#say(
          `* SEARCH ${this.#named(/UID (\S+)/i.exec(rest)?.[1] ?? '1:*')
            .map(([, l]) => l.uid)
            .join(' ')}`,
        );
        return 'OK found';
      case 'UID FETCH':
        for (const [at, letter] of this.#named(set)) this.#fetch(at, letter, what.toUpperCase());
        return 'OK fetched';
      case 'UID STORE':
        for (const [at, letter] of this.#named(set)) this.#store(at, letter, what);
        return 'OK stored';
      default:
        return `BAD ${verb} is not spoken here`;
    }
  }

  #signIn(user: string, password: string): string {
    if (this.#password !== undefined && password !== this.#password) return 'NO [AUTHENTICATIONFAILED] this user or this password is not known here';
    this.#address = user;
    return `OK [CAPABILITY ${CAPABILITIES}] welcome`;
  }

  #authenticate(tag: string, rest: string): string | null {
    const [mechanism, initial] = rest.split(' ');
    if (mechanism?.toUpperCase() !== 'PLAIN') return 'NO only PLAIN';
    const signIn = (text: string): string => {
      const [, user, password] = Buffer.from(text, 'base64').toString('utf8').split('\0');
      return this.#signIn(user ?? '', password ?? '');
    };
    if (initial !== undefined) return signIn(initial);
    this.#goOn = (line) => this.#say(`${tag} ${signIn(line)}`);
    this.#say('+ ');
    return null;
  }

  get #mails(): Letter[] {
    return this.#letters.of(this.#address ?? '');
  }

  #select(readOnly: boolean): string {
    this.#selected = true;
    this.#say('* FLAGS (\\Seen)');
    this.#say('* OK [PERMANENTFLAGS (\\Seen)] flags');
    this.#say(`* ${this.#mails.length} EXISTS`);
    this.#say('* 0 RECENT');
    this.#say(`* OK [UIDVALIDITY ${UID_VALIDITY}] generation`);
    this.#say(`* OK [UIDNEXT ${this.#letters.all.length + 1}] next`);
    this.#stopListening();
    this.#stopListening = this.#letters.listen(() => this.#say(`* ${this.#mails.length} EXISTS`));
    return `OK [${readOnly ? 'READ-ONLY' : 'READ-WRITE'}] open`;
  }

  #idle(tag: string): null {
    this.#goOn = () => this.#say(`${tag} OK awake`);
    this.#say('+ idling');
    return null;
  }

  /** Mails whose numbers a set names, `5:*` say, each with its place in the mailbox. */
  #named(set: string): [number, Letter][] {
    const mails = this.#mails;
    const last = mails.at(-1)?.uid ?? 0;
    const number = (word: string) => (word === '*' ? last : Number(word));
    const ranges = set.split(',').map((range) => {
      const [from, to = from] = range.split(':').map(number) as [number, number?];
      return [Math.min(from, to ?? from), Math.max(from, to ?? from)] as const;
    });
    return mails.map((l, i): [number, Letter] => [i + 1, l]).filter(([, l]) => ranges.some(([from, to]) => l.uid >= from && l.uid <= to));
  }

  #fetch(at: number, letter: Letter, what: string): void {
    const items = [`UID ${letter.uid}`];
    if (what.includes('FLAGS')) items.push(`FLAGS (${this.#seen.has(letter.uid) ? '\\Seen' : ''})`);
    if (what.includes('RFC822.SIZE')) items.push(`RFC822.SIZE ${letter.raw.length}`);
    if (what.includes('INTERNALDATE')) items.push(`INTERNALDATE "${internalDate(letter.at)}"`);
    if (what.includes('BODY.PEEK[]') || what.includes('BODY[]')) items.push(`BODY[] {${letter.raw.length}}\r\n${letter.raw}`);
    this.#say(`* ${at} FETCH (${items.join(' ')})`);
  }

  #store(at: number, letter: Letter, what: string): void {
    if (/\\Seen/i.test(what)) this.#seen[what.startsWith('-') ? 'delete' : 'add'](letter.uid);
    if (!/\.SILENT/i.test(what)) this.#say(`* ${at} FETCH (UID ${letter.uid} FLAGS (${this.#seen.has(letter.uid) ? '\\Seen' : ''}))`);
  }
}

/** ` 1-Dec-2026 09:00:00 +0000` (RFC 3501, 9) */
const internalDate = (iso: string): string => {
  const [, day, month, year, time] = /, (\d\d) (\w+) (\d+) ([\d:]+)/.exec(new Date(iso).toUTCString()) ?? [];
  return `${day}-${month}-${year} ${time} +0000`;
};
