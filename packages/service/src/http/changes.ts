import type { Request, Response } from 'express';
import { identify } from '../access/callers.ts';
import type { App } from '../app.ts';
import { HttpProblem } from './problem.ts';

/** Open streams that one person may have, and all of one process together. */
const MOST_OF_ONE = 20;
const MOST = 1000;
/** Milliseconds between two signs of life; as often it is looked whether the caller may still listen. */
const BEAT = 20_000;

const open = new Map<string, number>();

/**
 * Server-sent events: which nouns have changed, at most a few times a second; the reader asks for what it shows. A stream
 * ends with the session or token that opened it.
 */
export async function changes(app: App, request: Request, response: Response): Promise<void> {
  const caller = await identify(app, request);
  if (caller === null || caller.mustChangePassword) throw new HttpProblem(401, 'Not signed in', 'sign in, or give a token as a bearer token');
  const count = open.get(caller.person) ?? 0;
  const all = [...open.values()].reduce((a, b) => a + b, 0);
  if (count >= MOST_OF_ONE || all >= MOST) {
    response.set('retry-after', '30');
    throw new HttpProblem(429, 'Too many streams', `${caller.email} has ${count} event streams open (${MOST_OF_ONE} at most); close some first`);
  }
  open.set(caller.person, count + 1);
  response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform', 'x-accel-buffering': 'no' });
  response.flushHeaders();
  response.write('retry: 1000\n\nevent: hello\ndata: []\n\n');
  const pending = new Set<string>();
  let timer: NodeJS.Timeout | null = null;
  let last = 0;
  const flush = () => {
    timer = null;
    last = Date.now();
    response.write(`event: changed\ndata: ${JSON.stringify([...pending])}\n\n`);
    pending.clear();
  };
  const endIfSignedOut = () =>
    void identify(app, request, false).then(
      (still) => still === null && response.end(),
      // Whether they may still listen is not known: the browser connects again, and is asked again.
      () => response.end(),
    );
  const stop = app.announcer.listen((nouns) => {
    if (nouns.includes('people')) endIfSignedOut();
    for (const noun of nouns) pending.add(noun);
    // The first is sent at once; what follows in quick succession is gathered.
    timer ??= setTimeout(flush, Math.max(0, 150 - (Date.now() - last)));
  });
  const beat = setInterval(() => {
    response.write(': still here\n\n');
    endIfSignedOut();
  }, BEAT);
  response.on('close', () => {
    stop();
    clearInterval(beat);
    if (timer !== null) clearTimeout(timer);
    const left = (open.get(caller.person) ?? 1) - 1;
    if (left > 0) open.set(caller.person, left);
    else open.delete(caller.person);
  });
}
