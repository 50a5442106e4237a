import { isIP } from 'node:net';
import { rootCertificates } from 'node:tls';
import { ImapFlow, type ImapFlowOptions } from 'imapflow';
import { type AddressRules, checkedLookup, ForbiddenAddress, mayCall } from '../http/addresses.ts';
import { masked } from '../http/masked.ts';
import type { AccessToken } from '../http/oauth.ts';
import type { IncomingMail, Mailbox, MailCursor, ProbeStep } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import { besides, inThread } from '../threads.ts';
import { unreadMail } from './read-mail.ts';

/** Octets of the largest mail that is looked into: an answer to an invitation is a few thousand. */
const LARGEST_MAIL = 1_000_000;
/** Seconds for reading one mail, with the start of a thread. */
const LONGEST = 10;
/** Milliseconds until a lost connection that listened is opened again. */
const AGAIN = 15_000;

export interface ImapSettings {
  /** `imaps://mail.alder-wren.example:993` */
  address: string;
  user: string;
  /** the name under which the receiving server says what it found out about senders */
  checker?: string | undefined;
  timeout?: number | undefined;
  authority?: string | undefined;
}

/** Reads an inbox over IMAP4rev1 (RFC 3501), with TLS where the server offers it. */
export class Imap implements Mailbox {
  readonly #settings: ImapSettings;
  readonly #credentials: string | AccessToken;
  readonly #rules: AddressRules;

  /** @param credentials a password, or where access tokens come from */
  constructor(settings: ImapSettings, credentials: string | AccessToken, rules: AddressRules) {
    this.#settings = settings;
    this.#credentials = credentials;
    this.#rules = rules;
  }

  get #url(): URL {
    return new URL(this.#settings.address);
  }

  /** An access token that the server does not accept any more is renewed once. */
  async #open(): Promise<ImapFlow> {
    if (typeof this.#credentials === 'string') return this.#signIn({ pass: this.#credentials });
    const accessToken = await this.#credentials(null);
    try {
      return await this.#signIn({ accessToken });
    } catch (error) {
      if (!(error instanceof OutsideError) || error.trouble !== 'not authorised') throw error;
      return this.#signIn({ accessToken: await this.#credentials(accessToken) });
    }
  }

  async #signIn(credentials: { pass: string } | { accessToken: string }): Promise<ImapFlow> {
    const { hostname, protocol, port, host } = this.#url;
    const name = hostname.replace(/^\[|\]$/g, '');
    const secure = protocol === 'imaps:';
    const timeout = (this.#settings.timeout ?? 30) * 1000;
    const isHere = /^(localhost|127\.|::1$)/.test(name);
    const options: ImapFlowOptions = {
      host: await this.#checked(name),
      port: Number(port) || (secure ? 993 : 143),
      secure,
      servername: name,
      // Credentials never cross a network in the clear.
      ...(secure ? {} : { doSTARTTLS: isHere ? undefined : true }),
      auth: { user: this.#settings.user, ...credentials },
      logger: false,
      connectionTimeout: Math.min(timeout, 10_000),
      greetingTimeout: timeout,
      socketTimeout: 10 * 60_000,
      ...(this.#settings.authority === undefined ? {} : { tls: { ca: [...rootCertificates, this.#settings.authority] } }),
    } as ImapFlowOptions;
    const client = new ImapFlow(options);
    // Without a listener, a broken connection would end the process.
    client.on('error', () => undefined);
    try {
      await client.connect();
      return client;
    } catch (error) {
      client.close();
      throw explain(error, host, Object.values(credentials));
    }
  }

  get #secrets(): string[] {
    return typeof this.#credentials === 'string' ? [this.#credentials] : [];
  }

  /** The IP address that is called, so that a name cannot change in between. */
  async #checked(name: string): Promise<string> {
    if (isIP(name) !== 0) {
      if (mayCall(name, name, this.#rules)) return name;
      throw new OutsideError(
        'forbidden address',
        `${name} is a private address that this installation does not call; its operator can allow it in MONSOON_ALLOW_ADDRESSES`,
      );
    }
    return new Promise((fine, failed) => {
      checkedLookup(this.#rules)(name, {}, (error, address) => {
        if (error === null) return fine(String(address));
        failed(
          error instanceof ForbiddenAddress
            ? new OutsideError('forbidden address', error.message)
            : new OutsideError('unreachable', `${name} is not found (${(error as NodeJS.ErrnoException).code ?? error.message})`),
        );
      });
    });
  }

  async *probe(): AsyncIterable<ProbeStep> {
    try {
      const client = await this.#open();
      try {
        const box = await client.mailboxOpen('INBOX', { readOnly: true });
        yield {
          name: 'mailbox',
          outcome: 'ok',
          detail: `${this.#settings.user} at ${this.#url.host} is accepted; ${box.exists} mails, of which only answers to invitations are read`,
        };
      } finally {
        await client.logout().catch(() => client.close());
      }
    } catch (error) {
      yield { ...failedStep(error), name: 'mailbox' };
    }
  }

  async read(cursor: MailCursor | null, take: (mail: IncomingMail) => Promise<boolean>, signal: AbortSignal): Promise<MailCursor> {
    const client = await this.#open();
    const stop = () => client.close();
    signal.addEventListener('abort', stop);
    try {
      const box = await client.mailboxOpen('INBOX');
      const validity = String(box.uidValidity);
      let uid = cursor === null ? box.uidNext - 1 : cursor.validity === validity ? cursor.uid : 0;
      if (uid >= box.uidNext - 1) return { validity, uid };
      const sizes: { uid: number; size: number }[] = [];
      for await (const message of client.fetch(`${uid + 1}:*`, { uid: true, size: true }, { uid: true })) {
        // A range that ends in * names the last mail even where it is an earlier one (RFC 3501, 6.4.8).
        if (message.uid > uid) sizes.push({ uid: message.uid, size: message.size ?? 0 });
      }
      for (const { uid: at, size } of sizes.sort((a, b) => a.uid - b.uid)) {
        signal.throwIfAborted();
        const mail = size > LARGEST_MAIL ? await this.#tooLarge(client, at, size) : await this.#look(client, at);
        if (mail !== null && (await take(mail))) await client.messageFlagsAdd(String(at), ['\\Seen'], { uid: true });
        uid = at;
      }
      return { validity, uid };
    } catch (error) {
      throw signal.aborted ? error : explain(error, this.#url.host, this.#secrets);
    } finally {
      signal.removeEventListener('abort', stop);
      await client.logout().catch(() => client.close());
    }
  }

  async #look(client: ImapFlow, uid: number): Promise<IncomingMail | null> {
    const message = await client.fetchOne(String(uid), { source: true, uid: true }, { uid: true });
    if (message === false || message.source === undefined) return null;
    const { source } = message;
    // A mail is built by a stranger, and its reader reads it in one go: whatever comes of it, the next one is looked at.
    const checker = this.#settings.checker ?? null;
    return inThread<IncomingMail>(besides(import.meta.url, 'read-mail'), 'readMail', { uid, source, checker }, LONGEST).catch((error: unknown) =>
      unreadMail(uid, source, (error as Error).message),
    );
  }

  async #tooLarge(client: ImapFlow, uid: number, size: number): Promise<IncomingMail> {
    const message = await client.fetchOne(String(uid), { headers: ['subject'], uid: true }, { uid: true });
    return unreadMail(uid, message === false ? null : (message.headers ?? null), `it has ${size} octets; ${LARGEST_MAIL} are read`);
  }

  /** Hears of new mails at once (RFC 2177). A lost connection is opened again. @returns how to stop */
  async watch(changed: () => void): Promise<() => Promise<void>> {
    let stopped = false;
    let client: ImapFlow | null = null;
    let timer: NodeJS.Timeout | undefined;
    const again = () => {
      if (!stopped) timer = setTimeout(() => void listen().catch(again), AGAIN);
    };
    const listen = async (): Promise<void> => {
      const fresh = await this.#open();
      if (stopped) return fresh.close();
      client = fresh;
      fresh.on('exists', changed);
      fresh.on('close', again);
      await fresh.mailboxOpen('INBOX', { readOnly: true });
      // What arrived before listening began.
      changed();
      void idle(fresh).catch(() => fresh.close());
    };
    const idle = async (on: ImapFlow): Promise<void> => {
      while (!stopped && on.usable) await on.idle();
    };
    await listen().catch(again);
    return async () => {
      stopped = true;
      clearTimeout(timer);
      client?.close();
    };
  }
}

function explain(error: unknown, host: string, secrets: readonly string[]): OutsideError {
  if (error instanceof OutsideError) return error;
  const { code, authenticationFailed, responseText } = error as { code?: string; authenticationFailed?: boolean; responseText?: string };
  const said = masked(responseText ?? (error as Error).message, secrets).slice(0, 300);
  if (authenticationFailed === true) return new OutsideError('not authorised', `${host} does not accept the credentials of the mailbox: ${said}`);
  if (code === 'ETIMEDOUT' || code === 'ETIMEOUT' || /timeout/i.test(code ?? ''))
    return new OutsideError('timed out', `${host} did not answer in time`);
  return new OutsideError('unreachable', `the mailbox at ${host} cannot be read (${code ?? said})`, { cause: error });
}
