import { createConnection, isIP } from 'node:net';
import { rootCertificates } from 'node:tls';
import nodemailer from 'nodemailer';
import { type AddressRules, checkedLookup, ForbiddenAddress, mayCall } from '../http/addresses.ts';
import { masked } from '../http/masked.ts';
import type { Mail, Message, ProbeStep } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import type { MailSettings } from './settings.ts';

/** Mail out over SMTP (RFC 5321), with TLS where the server offers it. */
export class Smtp implements Mail {
  readonly #settings: MailSettings;
  /** as it stands alone, and as it is sent (RFC 4616) */
  readonly #secrets: string[];
  readonly #transport: ReturnType<typeof nodemailer.createTransport>;

  constructor(settings: MailSettings, password: string | undefined, addresses: AddressRules) {
    this.#settings = settings;
    this.#secrets = password === undefined ? [] : [password, `\0${settings.user}\0${password}`];
    const url = new URL(settings.address);
    const secure = url.protocol === 'smtps:';
    const port = Number(url.port) || (secure ? 465 : 587);
    const timeout = (settings.timeout ?? 30) * 1000;
    this.#transport = nodemailer.createTransport({
      host: url.hostname,
      port,
      secure,
      ...(settings.user === undefined ? {} : { auth: { user: settings.user, pass: password ?? '' } }),
      // Credentials never cross a network in the clear.
      requireTLS: !secure && settings.user !== undefined && !/^(localhost|127\.|\[::1\])/.test(url.hostname),
      connectionTimeout: Math.min(timeout, 10_000),
      greetingTimeout: timeout,
      socketTimeout: timeout,
      disableFileAccess: true,
      disableUrlAccess: true,
      ...(settings.authority === undefined ? {} : { tls: { ca: [...rootCertificates, settings.authority] } }),
      getSocket: (_options: unknown, done: (error: Error | null, socket?: unknown) => void) => {
        const host = url.hostname.replace(/^\[|\]$/g, '');
        if (isIP(host) !== 0 && !mayCall(host, host, addresses))
          return done(
            new ForbiddenAddress(
              `${host} is a private address that this installation does not call; its operator can allow it in MONSOON_ALLOW_ADDRESSES`,
            ),
          );
        const socket = createConnection({ host, port, lookup: checkedLookup(addresses) });
        socket.setTimeout(Math.min(timeout, 10_000), () => socket.destroy(Object.assign(new Error('no connection in time'), { code: 'ETIMEDOUT' })));
        socket.once('error', done);
        socket.once('connect', () => {
          socket.setTimeout(0);
          socket.off('error', done);
          done(null, { connection: socket });
        });
      },
    } as never);
  }

  async *probe(): AsyncIterable<ProbeStep> {
    const host = new URL(this.#settings.address).host;
    try {
      await this.#transport.verify();
      yield { name: 'reachable', outcome: 'ok', detail: `${host} answers as a mail server` };
      yield {
        name: 'credentials',
        outcome: 'ok',
        detail: this.#settings.user === undefined ? 'none are given, and none are wanted' : `${this.#settings.user} is accepted`,
      };
    } catch (error) {
      yield failedStep(explain(error, host, this.#secrets));
    }
  }

  get sender(): string {
    return this.#settings.from;
  }

  async send(message: Message): Promise<void> {
    try {
      await this.#transport.sendMail({
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
      });
    } catch (error) {
      throw explain(error, new URL(this.#settings.address).host, this.#secrets);
    }
  }

  close(): void {
    this.#transport.close();
  }
}

/** A header is one line: what a person wrote cannot begin another (RFC 5322, 2.2). */
const oneLine = (text: string): string => text.replace(/\p{Cc}+/gu, ' ').trim();

function explain(error: unknown, host: string, secrets: readonly string[]): OutsideError {
  const { code, responseCode, command } = error as { code?: string; responseCode?: number; command?: string };
  // Once the text is on its way, a server that falls silent may have taken it.
  const uncertain = command === 'DATA' && responseCode === undefined;
  const message = masked((error as Error).message, secrets);
  if (error instanceof ForbiddenAddress) return new OutsideError('forbidden address', error.message);
  if (code === 'EAUTH') return new OutsideError('not authorised', `${host} does not accept the credentials: ${message}`);
  if (code === 'ETIMEDOUT') return new OutsideError('timed out', `${host} did not answer in time`, { uncertain });
  if (responseCode !== undefined && responseCode >= 500) return new OutsideError('refused', `${host} refused the mail: ${message}`);
  if (responseCode !== undefined && responseCode >= 400) return new OutsideError('broken', `${host} does not take the mail now: ${message}`);
  if (code === 'EENVELOPE' || code === 'EMESSAGE') return new OutsideError('refused', `the mail cannot be sent: ${message}`);
  return new OutsideError('unreachable', `the connection to ${host} failed (${code ?? message})`, { cause: error, uncertain });
}
