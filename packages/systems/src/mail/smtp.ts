import { createConnection, isIP, type Socket } from 'node:net';
import { rootCertificates } from 'node:tls';
import MailComposer from 'nodemailer/lib/mail-composer';
import SMTPConnection from 'nodemailer/lib/smtp-connection';
import { type AddressRules, checkedLookup, ForbiddenAddress, mayCall } from '../http/addresses.ts';
import { masked } from '../http/masked.ts';
import type { Mail, Message, ProbeStep } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import type { MailSettings } from './settings.ts';

/** Longest time in which a connection must stand, in milliseconds. */
const CONNECT = 10_000;

/** Mail out over SMTP (RFC 5321), with TLS where the server offers it; a connection for each mail. */
export class Smtp implements Mail {
  readonly #settings: MailSettings;
  readonly #addresses: AddressRules;
  readonly #password: string;
  /** as it stands alone, and as it is sent (RFC 4616) */
  readonly #secrets: string[];
  readonly #open = new Set<SMTPConnection>();

  constructor(settings: MailSettings, password: string | undefined, addresses: AddressRules) {
    this.#settings = settings;
    this.#addresses = addresses;
    this.#password = password ?? '';
    this.#secrets = password === undefined ? [] : [password, `\0${settings.user}\0${password}`];
  }

  async *probe(): AsyncIterable<ProbeStep> {
    const host = new URL(this.#settings.address).host;
    try {
      await this.#connected(async () => undefined);
      yield { name: 'reachable', outcome: 'ok', detail: `${host} answers as a mail server` };
      yield {
        name: 'credentials',
        outcome: 'ok',
        detail: this.#settings.user === undefined ? 'none are given, and none are wanted' : `${this.#settings.user} is accepted`,
      };
    } catch (error) {
      yield failedStep(explain(error, { host, secrets: this.#secrets }));
    }
  }

  get sender(): string {
    return this.#settings.from;
  }

  async send(message: Message): Promise<void> {
    const mail = new MailComposer({
      from: message.senderName === undefined ? this.#settings.from : { name: oneLine(message.senderName), address: this.#settings.from },
      to: message.to,
      subject: oneLine(message.subject),
      ...(message.messageId === undefined ? {} : { messageId: message.messageId }),
      ...(message.replyTo === undefined ? {} : { replyTo: message.replyTo }),
      text: message.text,
      ...(message.html === undefined ? {} : { html: message.html }),
      ...(message.calendar === undefined ? {} : { icalEvent: { method: message.calendar.method, content: message.calendar.text } }),
      // Answers by machines to machines make storms (RFC 3834, 5).
      headers: { 'Auto-Submitted': 'auto-generated' },
      disableFileAccess: true,
      disableUrlAccess: true,
    }).compile();
    const raw = await mail.build();
    let handing: SMTPConnection | undefined;
    try {
      await this.#connected((connection) => {
        handing = connection;
        return new Promise<void>((fine, fail) => connection.send(mail.getEnvelope(), raw, (error) => (error == null ? fine() : fail(error))));
      });
    } catch (error) {
      // Once the server has asked for the text, one that falls silent, or is gone, may have taken it.
      const asked = String(handing?.lastServerResponse ?? '').startsWith('354');
      throw explain(error, { host: new URL(this.#settings.address).host, secrets: this.#secrets, asked });
    }
  }

  /** Does something over a connection on which the user is signed in. @throws errors of the server, the network and the address rules */
  async #connected(work: (connection: SMTPConnection) => Promise<void>): Promise<void> {
    const { timeout: seconds = 30, user, authority } = this.#settings;
    const timeout = seconds * 1000;
    const url = new URL(this.#settings.address);
    const secure = url.protocol === 'smtps:';
    const host = url.hostname.replace(/^\[|\]$/g, '');
    const port = Number(url.port) || (secure ? 465 : 587);
    const connection = new SMTPConnection({
      host: url.hostname,
      port,
      secure,
      connection: await this.#socket(host, port, timeout),
      // Credentials never cross a network in the clear.
      requireTLS: !secure && user !== undefined && !/^(localhost|127\.|\[::1\])/.test(url.hostname),
      connectionTimeout: Math.min(timeout, CONNECT),
      greetingTimeout: timeout,
      socketTimeout: timeout,
      ...(authority === undefined ? {} : { tls: { ca: [...rootCertificates, authority] } }),
    });
    this.#open.add(connection);
    try {
      await new Promise<void>((fine, fail) => {
        connection.on('error', fail);
        connection.connect((error) => {
          if (error != null) return fail(error);
          const begin = () => void work(connection).then(fine, fail);
          if (user === undefined || !connection.allowsAuth) return begin();
          const credentials = { user, pass: this.#password };
          connection.login({ ...credentials, credentials }, (failed) => (failed == null ? begin() : fail(failed)));
        });
      });
      connection.quit();
    } finally {
      this.#open.delete(connection);
      connection.close();
    }
  }

  async #socket(host: string, port: number, timeout: number): Promise<Socket> {
    if (isIP(host) !== 0 && !mayCall(host, host, this.#addresses))
      throw new ForbiddenAddress(
        `${host} is a private address that this installation does not call; its operator can allow it in MONSOON_ALLOW_ADDRESSES`,
      );
    return new Promise((fine, fail) => {
      const socket = createConnection({ host, port, lookup: checkedLookup(this.#addresses) });
      socket.setTimeout(Math.min(timeout, CONNECT), () => socket.destroy(Object.assign(new Error('no connection in time'), { code: 'ETIMEDOUT' })));
      socket.once('error', fail);
      socket.once('connect', () => {
        socket.setTimeout(0);
        socket.off('error', fail);
        fine(socket);
      });
    });
  }

  close(): void {
    for (const connection of this.#open) connection.close();
  }
}

/** A header is one line: what a person wrote cannot begin another (RFC 5322, 2.2). */
const oneLine = (text: string): string => text.replace(/\p{Cc}+/gu, ' ').trim();

/** @param asked the server had asked for the text of the mail, and has not answered since */
function explain(error: unknown, { host, secrets, asked = false }: { host: string; secrets: readonly string[]; asked?: boolean }): OutsideError {
  const { code, responseCode } = error as { code?: string; responseCode?: number };
  const uncertain = asked && responseCode === undefined;
  const message = masked((error as Error).message, secrets);
  if (error instanceof ForbiddenAddress) return new OutsideError('forbidden address', error.message);
  if (code === 'EAUTH') return new OutsideError('not authorised', `${host} does not accept the credentials: ${message}`);
  if (code === 'ETIMEDOUT') return new OutsideError('timed out', `${host} did not answer in time`, { uncertain });
  if (responseCode !== undefined && responseCode >= 500) return new OutsideError('refused', `${host} refused the mail: ${message}`);
  if (responseCode !== undefined && responseCode >= 400) return new OutsideError('broken', `${host} does not take the mail now: ${message}`);
  if (code === 'EENVELOPE' || code === 'EMESSAGE') return new OutsideError('refused', `the mail cannot be sent: ${message}`);
  // The package's own codes say less than its words: what is wrong with a certificate, say.
  const why = code === undefined || ['ESOCKET', 'ECONNECTION', 'ETLS'].includes(code) ? message : code;
  return new OutsideError('unreachable', `the connection to ${host} failed (${why})`, { cause: error, uncertain });
}
