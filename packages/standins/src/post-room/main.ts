import type { AddressInfo, Socket } from 'node:net';
import { buffer } from 'node:stream/consumers';
import express from 'express';
import { SMTPServer } from 'smtp-server';
import { type Faults, parseFaults } from '../common/faults.ts';
import { html, render } from '../common/html.ts';
import { fail, options, serve } from '../common/serve.ts';
import { type Answer, answers, answerTo, invitationIn, type Proposal } from './answers.ts';
import { imapServer } from './imap.ts';
import { type Letter, Letters } from './letters.ts';

/**
 * The Post room of Alder & Wren: takes every mail over SMTP on loopback, sends none on, shows them as a list, lets their
 * readers answer invitations, and has a mailbox over IMAP for each address.
 */
const given = options('post-room --port N --smtp-port N --data FILE [--imap-port N] [--user NAME:PASSWORD] [--faults slow=0.1,...]', [
  'smtp-port',
  'imap-port',
  'user',
  'faults',
]);
const letters = new Letters(given.data);
const faults = (() => {
  try {
    return parseFaults(given.faults);
  } catch (error) {
    return fail(`post-room: ${(error as Error).message}`);
  }
})();
const [user, password] = given.user?.split(':') ?? [];

const strikes = (name: keyof Faults) => Math.random() < (faults[name] ?? 0);
/** Open connections, by the port that they come from. */
const sockets = new Map<number, Socket>();

const smtp = new SMTPServer({
  authOptional: user === undefined,
  disabledCommands: user === undefined ? ['AUTH', 'STARTTLS'] : ['STARTTLS'],
  // There is no way out of this house, so that nobody listens in between.
  allowInsecureAuth: true,
  size: 10 * 1024 * 1024,
  onAuth(auth, _session, done) {
    if (auth.username === user && auth.password === password) done(null, { user: auth.username });
    else done(new Error('this user or this password is not known here'));
  },
  onData(stream, session, done) {
    // Half of the mail has come, and nothing of it is taken.
    if (strikes('cut-off')) return void stream.once('data', () => sockets.get(session.remotePort)?.destroy());
    if (strikes('broken')) {
      stream.resume();
      return void stream.on('end', () => done(Object.assign(new Error('the post room is full, come back later'), { responseCode: 451 })));
    }
    void buffer(stream)
      .then((raw) =>
        letters.take(
          raw,
          session.envelope.rcptTo.map((r) => r.address),
        ),
      )
      .then(
        // The mail is taken, and the answer is lost.
        () => (strikes('lost-answer') ? sockets.get(session.remotePort)?.destroy() : setTimeout(done, strikes('slow') ? 1500 : 0)),
        (error: Error) => done(error),
      );
  },
});
smtp.server.on('connection', (socket: Socket) => {
  const port = socket.remotePort ?? 0;
  sockets.set(port, socket);
  socket.once('close', () => sockets.delete(port));
});
smtp.on('error', (error: NodeJS.ErrnoException) => {
  // A client that dies in the middle of a mail costs its own connection alone.
  if (error.syscall === 'listen') fail(`post room: ${error.message}`);
});
const imap = imapServer(letters, password);
imap.on('error', (error) => fail(`post room: ${error.message}`));

const app = express();
app.disable('x-powered-by');
app.use(express.urlencoded({ extended: false, limit: '10kb' }));
// Forms of other sites may not post here.
app.use((request, response, next) => {
  const origin = request.get('origin');
  if (request.method !== 'POST' || origin === undefined || origin === `http://${request.get('host')}`) return next();
  response.status(403).send('This form belongs to another site.');
});
const shown = ({ raw: _raw, ...letter }: Letter) => letter;
app.get('/api/mails', (_request, response) => response.json({ items: letters.all.map(shown) }));
app.get('/', (_request, response) => {
  const rows = letters.all
    .map(
      (l, i) =>
        `<tr><td><a href="/mails/${i}">${html(l.subject)}</a><td>${html(l.to.join(', '))}<td>${html(l.from)}<td>${html(l.at.slice(0, 19).replace('T', ' '))}`,
    )
    .reverse();
  const empty = letters.all.length === 0 ? '<p>No mail has come in yet.</p>' : '';
  response.send(
    render(
      'Post room',
      'Mails',
      `${empty}<table><thead><tr><th>Subject<th>To<th>From<th>Came in (UTC)</thead><tbody>${rows.join('')}</tbody></table>`,
    ),
  );
});
app.get('/mails/:number', (request, response) => {
  const letter = letters.all[Number(request.params.number)];
  if (letter === undefined) return response.status(404).send(render('Post room', 'No such mail', '<p><a href="/">All mails</a></p>'));
  response.send(render('Post room', letter.subject, mailPage(letter)));
});
/** Answers as the reader's calendar program would. */
app.post('/mails/:number', async (request, response) => {
  const letter = letters.all[Number(request.params.number)];
  const invitation = letter === undefined ? null : invitationIn(letter);
  const { answer, days } = request.body as { answer?: string; days?: string };
  const said: Answer | Proposal | undefined = answer === 'COUNTER' ? { days: Number(days) || 1 } : answers.find((a) => a === answer);
  if (letter === undefined || invitation === null || said === undefined)
    return response.status(422).send(render('Post room', 'Nothing to answer', '<p>This mail asks for no answer. <a href="/">All mails</a></p>'));
  const { raw, to } = answerTo(letter, invitation, said);
  await letters.take(raw, [to]);
  response.redirect(303, '/');
});

const frame = (text: string) =>
  `<iframe sandbox title="The mail as it looks" style="width:100%;height:26rem;border:1px solid #ddd" srcdoc="${html(text)}"></iframe>`;

function mailPage(letter: Letter): string {
  const parts = letter.parts.map((p) => `<h2>${html(p.name || p.type)}</h2><pre>${html(p.text)}</pre>`).join('');
  const form =
    invitationIn(letter) === null
      ? ''
      : `<form method="post"><p>As ${html(letter.to[0])}'s calendar program:
${answers.map((a) => `<button name="answer" value="${a}">${a.toLowerCase()}</button>`).join(' ')}
<button name="answer" value="COUNTER">propose another time</button> <label style="min-width:0">days later <input name="days" type="number" value="1" min="1" max="60"></label></p></form>`;
  const looks =
    letter.html === null ? `<pre>${html(letter.text)}</pre>` : `${frame(letter.html)}<h2>As plain text</h2><pre>${html(letter.text)}</pre>`;
  return `<p><a href="/">All mails</a> to ${html(letter.to.join(', '))} from ${html(letter.from)}</p>${form}${looks}${parts}`;
}

const portOf = (address: string | AddressInfo | null | undefined, asked: string | undefined) =>
  typeof address === 'object' && address !== null ? address.port : asked;
imap.listen(Number(given['imap-port'] ?? 0), '127.0.0.1', () => {
  console.log(`mailboxes are read at imap://127.0.0.1:${portOf(imap.address(), given['imap-port'])}`);
  smtp.listen(Number(given['smtp-port'] ?? 0), '127.0.0.1', () => {
    console.log(`mail is taken at smtp://127.0.0.1:${portOf(smtp.server.address(), given['smtp-port'])}`);
    serve('post room', app, given.port, async () => {
      imap.close();
      await new Promise<void>((resolve) => smtp.close(() => resolve()));
    });
  });
});
