import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { mishaps } from './webhooks.ts';

/** The ways in which a stand-in can misbehave, each with its probability. */
export const faultNames = ['slow', 'broken', 'cut-off', 'lost-answer', 'half-page', 'hook-twice', 'hook-lost'] as const;
export type Faults = Partial<Record<(typeof faultNames)[number], number>>;

/** Milliseconds by which a slow answer is late. */
const SLOW = 1500;

/** `slow=0.1,broken=0.05`. @throws RangeError naming what is wrong */
export function parseFaults(text: string | undefined): Faults {
  const faults: Faults = {};
  for (const part of (text ?? '').split(',').filter((p) => p.trim() !== '')) {
    const [name, share] = part.split('=').map((p) => p.trim());
    const known = faultNames.find((f) => f === name);
    const probability = Number(share ?? '0.1');
    if (known === undefined) throw new RangeError(`--faults: "${name}" is none; there are ${faultNames.join(', ')}`);
    if (!(probability >= 0 && probability <= 1))
      throw new RangeError(`--faults: "${share}" is no probability for ${name}; give a number from 0 to 1`);
    faults[known] = probability;
  }
  return faults;
}

/** Makes trouble as told; the caller may tell otherwise at any time. */
export function misbehave(faults: Faults): RequestHandler {
  const strikes = (name: keyof Faults) => Math.random() < (faults[name] ?? 0);
  mishaps.doubled = () => strikes('hook-twice');
  mishaps.lost = () => strikes('hook-lost');
  return (request: Request, response: Response, next: NextFunction) => {
    if (strikes('broken'))
      return void response
        .status(pick([500, 502, 503]))
        .type('text')
        .send('out of sorts');
    // Nothing is done.
    if (strikes('cut-off')) return void request.socket.destroy();
    // The work is done, and the answer is lost.
    if (strikes('lost-answer')) hold(response);
    if (strikes('half-page') && request.method === 'GET') halve(response);
    if (strikes('slow')) return void setTimeout(next, SLOW);
    next();
  };
}

const pick = (from: number[]) => from[Math.floor(Math.random() * from.length)]!;

function hold(response: Response): void {
  const cut = () => {
    response.socket?.destroy();
    return response;
  };
  response.send = cut as never;
  response.json = cut as never;
  response.end = cut as never;
}

function halve(response: Response): void {
  response.json = ((value: unknown) => {
    const whole = Buffer.from(JSON.stringify(value));
    response.type('json').set('content-length', String(whole.length));
    response.write(whole.subarray(0, Math.ceil(whole.length / 2)));
    setTimeout(() => response.socket?.destroy(), 20);
    return response;
  }) as never;
}

/** Turns callers away who ask more often than so many times in a second (RFC 6585, 4), and says when to come back. */
export function throttle(perSecond: number): RequestHandler {
  let second = 0;
  let seen = 0;
  return (_request, response, next) => {
    const now = Math.floor(Date.now() / 1000);
    if (now !== second) [second, seen] = [now, 0];
    if (++seen <= perSecond) return next();
    response
      .status(429)
      .set('retry-after', '1')
      .json({ error: `more than ${perSecond} requests in a second` });
  };
}
