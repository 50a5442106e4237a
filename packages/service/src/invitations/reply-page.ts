import { type Invitation, type Response as Reply, responses } from '@monsoon/core';
import { and, eq } from 'drizzle-orm';
import express, { type Request, type Response, type Router } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import type { App } from '../app.ts';
import { escaped } from '../notifications/mails.ts';
import { guests } from '../storage/schema.ts';
import { takeReply } from './replies.ts';
import { REPLIES, type ReplyTo, readReplyToken } from './reply-token.ts';
import { linesOf } from './say-event.ts';

/** Requests in a minute by one address: a person needs a few. */
const MOST = 120;
/** Longest comment, in characters. */
const LONGEST_COMMENT = 1000;

const answers: { reply: Reply; words: string; said: string }[] = [
  { reply: 'accepted', words: 'I will come', said: 'you will come' },
  { reply: 'tentative', words: 'I may come', said: 'you may come' },
  { reply: 'declined', words: 'I cannot come', said: 'you cannot come' },
];

/** Where a guest replies without signing in and without script: the link in the mail is the key. */
export function replyRouter(app: App): Router {
  const router = express.Router();
  router.use(
    REPLIES,
    rateLimit({ windowMs: 60_000, limit: MOST, standardHeaders: true, legacyHeaders: false, keyGenerator: (r) => ipKeyGenerator(r.ip ?? '') }),
    (_request, response, next) => {
      response.set({
        'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'",
        'referrer-policy': 'no-referrer',
        'x-content-type-options': 'nosniff',
        'x-robots-tag': 'noindex',
        'cache-control': 'no-store',
      });
      next();
    },
  );
  router.get(`${REPLIES}/:token`, (request, response, next) => void show(app, request, response).catch(next));
  // Mail scanners follow links: nothing is taken but what a person sends.
  router.post(
    `${REPLIES}/:token`,
    express.urlencoded({ extended: false, limit: '20kb' }),
    (request, response, next) => void take(app, request, response).catch(next),
  );
  return router;
}

interface Found {
  to: ReplyTo;
  invitation: Invitation;
  reply: Reply | null;
  /** of what the guest was sent last */
  sequence: number;
}

async function find(app: App, request: Request): Promise<Found | null> {
  const to = readReplyToken(app.vault, String(request.params['token']), Date.now());
  if (to === null) return null;
  const [row] = await app.db
    .select()
    .from(guests)
    .where(and(eq(guests.pair, to.pair), eq(guests.email, to.email)));
  return row?.knows == null ? null : { to, invitation: row.knows, reply: row.reply, sequence: row.sequence };
}

const gone = (response: Response): void => {
  response
    .status(404)
    .type('html')
    .send(
      page(
        'This link is not good any more',
        '<p>The event was cancelled, you are no longer a guest of it, or the link is too old. Reply to the mail instead.</p>',
      ),
    );
};

async function show(app: App, request: Request, response: Response): Promise<void> {
  const found = await find(app, request);
  if (found === null) return gone(response);
  // A mail that named another time asked about that one.
  const moved = found.to.sequence < found.sequence;
  const asked = moved ? undefined : request.query['answer'];
  ask(
    response,
    found,
    answers.find((a) => a.reply === asked)?.reply ?? found.reply,
    moved ? 'The event was changed after this mail. This is how it is now:' : null,
  );
}

/** The page that asks: the form carries what it asks about. */
function ask(response: Response, { invitation, reply, sequence }: Found, chosen: Reply | null, notice: string | null): void {
  const said = answers.find((a) => a.reply === reply)?.said;
  response.type('html').send(
    page(
      invitation.title ?? 'An appointment',
      `${notice === null ? '' : `<p><strong>${notice}</strong></p>`}
${facts(invitation)}
${said === undefined ? '' : `<p>So far you said that ${said}.</p>`}
<form method="post">
<input type="hidden" name="sequence" value="${sequence}">
<fieldset><legend>Will you come?</legend>
${answers.map((a) => `<label><input type="radio" name="answer" value="${a.reply}" required${a.reply === chosen ? ' checked' : ''}> ${a.words}</label>`).join('\n')}
</fieldset>
<label for="comment">A word to the organizer (you may leave it empty)</label>
<textarea id="comment" name="comment" rows="3" maxlength="${LONGEST_COMMENT}"></textarea>
<button type="submit">Send</button>
</form>`,
    ),
  );
}

async function take(app: App, request: Request, response: Response): Promise<void> {
  const found = await find(app, request);
  if (found === null) return gone(response);
  const { answer, comment, sequence } = (request.body ?? {}) as { answer?: unknown; comment?: unknown; sequence?: unknown };
  const reply = answers.find((a) => a.reply === answer && responses.includes(a.reply));
  if (reply === undefined) {
    const wrong = `<p>The answer "${escaped(String(answer ?? '').slice(0, 40))}" is none of ${answers.map((a) => a.reply).join(', ')}. <a href="">Choose one</a>.</p>`;
    response.status(422).type('html').send(page('No answer was chosen', wrong));
    return;
  }
  const about = typeof sequence === 'string' && /^\d{1,9}$/.test(sequence) ? Number(sequence) : found.to.sequence;
  const changed = 'The event was changed while you answered. This is how it is now; please answer once more:';
  if (about !== found.sequence) return ask(response.status(409), found, null, changed);
  const words = typeof comment === 'string' ? plain(comment).slice(0, LONGEST_COMMENT) : '';
  const outcome = await takeReply(app, {
    ...found.to,
    response: reply.reply,
    comment: words === '' ? null : words,
    via: 'link',
    sequence: about,
    stamp: new Date().toISOString(),
  });
  if (outcome === 'unknown') return gone(response);
  if (outcome === 'old')
    return ask(
      response.status(409),
      (await find(app, request)) ?? found,
      null,
      'Your answer was not taken: it was about a time that is out of date.',
    );
  const body = `${facts(found.invitation)}<p><strong>Your answer was sent: ${reply.said}.</strong></p><p><a href="">Change the answer</a></p>`;
  response.type('html').send(page(found.invitation.title ?? 'An appointment', body));
}

/** What a guest writes is text of few lines, and nothing else. */
const plain = (text: string): string =>
  text
    .replace(/\r\n?/g, '\n')
    .replace(/(?!\n)\p{Cc}/gu, '')
    .trim();

const facts = (invitation: Invitation): string =>
  `<dl>${linesOf(invitation, null)
    .map(([name, value]) => `<dt>${escaped(name)}</dt><dd>${escaped(value).replaceAll('\n', '<br>')}</dd>`)
    .join('')}</dl>`;

const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escaped(title)}</title>
<style>
body{margin:0;padding:16px;background:#f6f3ee;color:#2b2723;font:17px/1.5 system-ui,sans-serif}
main{max-width:34rem;margin:0 auto;background:#fffdfa;border:1px solid #ddd6cb;border-radius:6px;padding:16px}
h1{font-size:22px;line-height:1.3;margin:0 0 8px;overflow-wrap:anywhere}
dl{display:grid;grid-template-columns:auto 1fr;gap:2px 14px;margin:0 0 12px}dt{color:#6d655b}dd{margin:0;overflow-wrap:anywhere}
fieldset{border:0;padding:0;margin:0 0 12px}legend{font-weight:600;margin-bottom:4px;padding:0}
label{display:block;padding:4px 0}textarea{box-sizing:border-box;width:100%;font:inherit;padding:8px;border:1px solid #8a8177;border-radius:5px}
button{font:inherit;margin-top:12px;padding:10px 18px;border:1px solid #2b2723;border-radius:5px;background:#2b2723;color:#fffdfa}
a{color:#6b3d12}
</style></head>
<body><main><h1>${escaped(title)}</h1>
${body}
</main></body></html>
`;
