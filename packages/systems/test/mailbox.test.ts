import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { text } from 'node:stream/consumers';
import { loadZones } from '@monsoon/service';
import { type IncomingMail, kinds, type MailCursor } from '@monsoon/systems';
import { expect } from 'chai';
import { ImapFlow } from 'imapflow';
import { trouble } from '../../../test/support/outside.ts';
import { account, eventually } from '../../../test/support/servers.ts';

const signal = new AbortController().signal;
const address = process.env['MONSOON_TEST_DOVECOT']!;
const authority = readFileSync(process.env['MONSOON_TEST_DOVECOT_CERT']!, 'utf8');
const visits = 'visits@alder-wren.example';
const settings = { address: 'smtp://127.0.0.1:1', from: visits, mailbox: address, mailboxUser: visits, authority };
const open = (secrets: object = { mailboxPassword: account.password }, more: object = {}, allowed = ['127.0.0.1']) =>
  kinds['mail']!.open({ ...settings, ...more }, secrets, { addresses: { allowed }, zones: loadZones() });

/** The same mailbox, as its owner's own program sees it. */
async function asOwner<T>(work: (client: ImapFlow) => Promise<T>): Promise<T> {
  const url = new URL(address);
  const client = new ImapFlow({
    host: url.hostname,
    port: Number(url.port),
    secure: true,
    auth: { user: visits, pass: account.password },
    logger: false,
    tls: { ca: [authority] },
  });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.logout();
  }
}
const lay = (raw: string) => asOwner((client) => client.append('INBOX', raw));
const mail = (body: string[], from = 'Ada Lark <ada.lark@post.example>') =>
  [`From: ${from}`, `To: ${visits}`, 'Subject: Re: visit', 'MIME-Version: 1.0', ...body].join('\r\n');
const calendar = ['BEGIN:VCALENDAR', 'METHOD:REPLY', 'END:VCALENDAR'];
const reply = mail([
  'Content-Type: multipart/mixed; boundary=b',
  '',
  '--b',
  'Content-Type: text/plain',
  '',
  'yes',
  '--b',
  'Content-Type: text/calendar; method=REPLY',
  '',
  ...calendar,
  '--b--',
  '',
]);

/** A mailbox of Debian's Dovecot, over TLS with a certificate of its own. */
describe('a mailbox over IMAP', function () {
  this.timeout(60_000);
  const readAll = async (cursor: MailCursor | null, isAnswer: (mail: IncomingMail) => boolean = () => false) => {
    const system = open();
    const found: IncomingMail[] = [];
    const next = await system.mailbox!.read(
      cursor,
      async (m) => {
        found.push(m);
        return isAnswer(m);
      },
      signal,
    );
    await system.close();
    return { found, next };
  };

  before(() =>
    asOwner(async (client) => {
      await client.mailboxOpen('INBOX');
      await client.messageDelete('1:*');
    }),
  );

  it('reads what came since, and marks as read only what was an answer', async () => {
    await lay(mail(['', 'before Monsoon came']));
    const { next: start, found: none } = await readAll(null);
    expect(none).to.deep.equal([]);
    await lay(mail(['', 'hello']));
    await lay(reply);
    const { found, next } = await readAll(start, (m) => m.calendar !== null);
    expect(found.map(({ from, calendar: text }) => [from, text?.includes('METHOD:REPLY') ?? false])).to.deep.equal([
      [['ada.lark@post.example'], false],
      [['ada.lark@post.example'], true],
    ]);
    expect((await readAll(next)).found, 'nothing is read twice').to.deep.equal([]);
    const flags = await asOwner(async (client) => {
      await client.mailboxOpen('INBOX', { readOnly: true });
      const all: boolean[] = [];
      for await (const m of client.fetch('1:*', { flags: true })) all.push(m.flags!.has('\\Seen'));
      return all;
    });
    expect(flags).to.deep.equal([false, false, true]);
    const other = await readAll({ validity: '1', uid: 4_000_000 });
    expect(other.found, 'a mailbox that was made again is read whole').to.have.length(3);
  });

  it('leaves what is too large, or built to hurt, and goes on behind it', async () => {
    const { next: start } = await readAll(null);
    await lay(mail(['', 'x'.repeat(78)]) + `\r\n${'y'.repeat(76)}\r\n`.repeat(40_000));
    const nested = Array.from({ length: 2000 }, (_, i) => `Content-Type: multipart/mixed; boundary=b${i}\r\n\r\n--b${i}`);
    await lay(mail([...nested, 'Content-Type: text/calendar; method=REPLY', '', ...calendar, '']));
    await lay(
      mail([
        'Content-Type: multipart/mixed; boundary=b',
        '',
        ...Array.from({ length: 10_000 }, () => '--b\r\nContent-Type: text/plain\r\n\r\nx'),
        '--b--',
        '',
      ]),
    );
    await lay(mail(['Content-Type: multipart/mixed; boundary=b', '', ...Array<string>(2000).fill('--b'), '']));
    await lay(mail(['Content-Type: multipart/mixed; boundary=b', '', ...Array<string>(150).fill('--b\r\n'), '--b--', '']));
    await lay(reply);
    const { found } = await readAll(start);
    expect(found.map((m) => m.unread?.replace(/\d+/, 'N') ?? m.calendar !== null)).to.deep.equal([
      '"Re: visit": it has N octets; 1000000 are read',
      '"Re: visit": it has more than N parts, which is the most that are read',
      '"Re: visit": it has more than N parts, which is the most that are read',
      '"Re: visit": it has more than N parts, which is the most that are read',
      false,
      true,
    ]);
  });

  it('hears of a new mail at once, says what is wrong with credentials, and calls no address that is not allowed', async () => {
    const system = open();
    let heard = 0;
    const stop = await system.watch!(
      () => heard++,
      () => undefined,
    );
    await eventually('listening', async () => heard > 0);
    const before = heard;
    await lay(reply);
    await eventually('the notice', async () => heard > before, 5000);
    await stop();
    await system.close();
    const read = (of: ReturnType<typeof open>) => of.mailbox!.read(null, async () => false, signal);
    const refused = await trouble(read(open({ mailboxPassword: 'not-this-one' })));
    expect(refused).to.include({ trouble: 'not authorised' });
    expect(refused.message).to.not.include('not-this-one');
    expect(await trouble(read(open(undefined, {}, [])))).to.include({ trouble: 'forbidden address' });
    expect(await trouble(read(open(undefined, { mailbox: 'imaps://127.0.0.1:1' })))).to.include({ trouble: 'unreachable' });
    expect((await trouble(read(open(undefined, { authority: undefined })))).message, 'a certificate of an unknown authority').to.match(
      /certificate|cannot be read/i,
    );
    const steps = [];
    for await (const step of open().mailbox!.probe(signal)) steps.push(`${step.name} ${step.outcome}`);
    expect(steps).to.deep.equal(['mailbox ok']);
  });

  it('signs in with an access token, renews one that is not accepted any more, and says when none is given', async () => {
    const good = new Set<string>();
    let given = 0;
    const authorization = createServer(async (request, response) => {
      const form = new URLSearchParams(await text(request));
      response.setHeader('content-type', 'application/json');
      if (request.url === '/introspect') return response.end(JSON.stringify({ active: good.has(form.get('token') ?? ''), username: visits }));
      if (given === 3) return response.writeHead(400).end(JSON.stringify({ error: 'invalid_grant' }));
      const access_token = `token-${++given}`;
      good.add(access_token);
      response.end(JSON.stringify({ access_token, token_type: 'bearer', expires_in: 3600 }));
    }).listen(Number(process.env['MONSOON_TEST_TOKENS']), '127.0.0.1');
    const origin = `http://127.0.0.1:${process.env['MONSOON_TEST_TOKENS']}`;
    const authentication = { kind: 'oauth2', grant: 'client credentials', token: `${origin}/token` };
    const system = open({ clientSecret: 'quiet' }, { client: 'monsoon', authentication });
    const read = () => system.mailbox!.read(null, async () => false, signal);
    try {
      await read();
      await read();
      expect(given, 'a token is used until it ends').to.equal(1);
      good.clear();
      await read();
      expect(given, 'one that was withdrawn is renewed').to.equal(2);
      good.clear();
      given = 3;
      const refused = await trouble(read());
      expect(refused).to.include({ trouble: 'not authorised' });
      expect(refused.message)
        .to.match(/invalid_grant/)
        .and.not.include('token-');
    } finally {
      await system.close();
      authorization.close();
      authorization.closeAllConnections();
    }
  });
});
