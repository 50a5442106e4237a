import { appendFileSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import express from 'express';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { parseFaults } from '../common/faults.ts';
import { html, render } from '../common/html.ts';
import { fail, options, serve } from '../common/serve.ts';

/** The Post room of Alder & Wren: takes every mail over SMTP on loopback, sends none on, and shows them as a list. */
interface Letter {
  at: string;
  from: string;
  to: string[];
  subject: string;
  text: string;
  html: string | null;
  parts: { name: string; type: string; text: string }[];
}

const given = options('post-room --port N --smtp-port N --data FILE [--user NAME:PASSWORD] [--faults slow=0.1,broken=0.1]', [
  'smtp-port',
  'user',
  'faults',
]);
mkdirSync(dirname(given.data), { recursive: true });
const letters: Letter[] = existsSync(given.data)
  ? readFileSync(given.data, 'utf8')
      .split('\n')
      .filter((line) => line.endsWith('}'))
      .map((line) => JSON.parse(line) as Letter)
  : [];
const faults = (() => {
  try {
    return parseFaults(given.faults);
  } catch (error) {
    return fail(`post-room: ${(error as Error).message}`);
  }
})();
const [user, password] = given.user?.split(':') ?? [];

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
    if (Math.random() < (faults.broken ?? 0)) {
      stream.resume();
      return void stream.on('end', () => done(Object.assign(new Error('the post room is full, come back later'), { responseCode: 451 })));
    }
    void simpleParser(stream, {}).then(
      (mail) => {
        const letter: Letter = {
          at: new Date().toISOString(),
          from: mail.from?.text ?? '',
          to: session.envelope.rcptTo.map((r) => r.address),
          subject: mail.subject ?? '',
          text: mail.text ?? '',
          html: mail.html === false ? null : (mail.html ?? null),
          parts: mail.attachments.map((a) => ({
            name: a.filename ?? '',
            type: a.contentType,
            text: a.contentType.startsWith('text/') ? a.content.toString('utf8') : '',
          })),
        };
        letters.push(letter);
        appendFileSync(given.data, `${JSON.stringify(letter)}\n`);
        setTimeout(done, Math.random() < (faults.slow ?? 0) ? 1500 : 0);
      },
      (error: Error) => done(error),
    );
  },
});
smtp.on('error', (error) => fail(`post room: ${error.message}`));

const app = express();
app.disable('x-powered-by');
app.get('/api/mails', (_request, response) => response.json({ items: letters }));
app.get('/', (_request, response) => {
  const rows = letters
    .map(
      (l, i) =>
        `<tr><td><a href="/mails/${i}">${html(l.subject)}</a><td>${html(l.to.join(', '))}<td>${html(l.from)}<td>${html(l.at.slice(0, 19).replace('T', ' '))}`,
    )
    .reverse();
  const empty = letters.length === 0 ? '<p>No mail has come in yet.</p>' : '';
  response.send(
    render(
      'Post room',
      'Mails',
      `${empty}<table><thead><tr><th>Subject<th>To<th>From<th>Came in (UTC)</thead><tbody>${rows.join('')}</tbody></table>`,
    ),
  );
});
app.get('/mails/:number', (request, response) => {
  const letter = letters[Number(request.params.number)];
  if (letter === undefined) return response.status(404).send(render('Post room', 'No such mail', '<p><a href="/">All mails</a></p>'));
  const parts = letter.parts.map((p) => `<h2>${html(p.name || p.type)}</h2><pre>${html(p.text)}</pre>`).join('');
  response.send(
    render('Post room', letter.subject, `<p><a href="/">All mails</a> to ${html(letter.to.join(', '))}</p><pre>${html(letter.text)}</pre>${parts}`),
  );
});
smtp.listen(Number(given['smtp-port'] ?? 0), '127.0.0.1', () => {
  const address = smtp.server.address();
  console.log(`mail is taken at smtp://127.0.0.1:${typeof address === 'object' ? address?.port : given['smtp-port']}`);
  serve('post room', app, given.port, () => new Promise((resolve) => smtp.close(() => resolve())));
});
