import { isIP } from 'node:net';
import type { RequestHandler } from 'express';
import type { App } from '../app.ts';
import { HttpProblem } from './problem.ts';

/** The name in a Host header, without its port. */
const nameOf = (host: string): string =>
  host
    .replace(/:\d+$/, '')
    .replace(/^\[|\]$/g, '')
    .toLowerCase();

/**
 * A page of another site can make its own name lead to this machine (DNS rebinding): the browser then takes us for that
 * site. A name other than localhost must therefore be the one in MONSOON_ADDRESS. An IP address cannot be rebound.
 */
export function checkHost({ config }: App): RequestHandler {
  const own = config.publicAddress === undefined ? null : nameOf(new URL(config.publicAddress).host);
  return (request, _response, next) => {
    const name = nameOf(request.get('host') ?? '');
    if (name === own || name === 'localhost' || isIP(name) !== 0) return next();
    throw new HttpProblem(
      421,
      'Not this host',
      `Monsoon is not reached as "${name.slice(0, 200)}"; set MONSOON_ADDRESS to the address that people use`,
    );
  };
}

const isOrigin = (text: string, hosts: readonly string[]): boolean => URL.canParse(text) && hosts.includes(new URL(text).host);

/**
 * What a browser sends for another site must not change anything with our cookie. Browsers name the site in Origin, or in
 * Sec-Fetch-Site (W3C Fetch Metadata); bodies are JSON, which a form of another site cannot send.
 */
export function checkOrigin({ config }: App): RequestHandler {
  const own = config.publicAddress === undefined ? [] : [new URL(config.publicAddress).host];
  return (request, _response, next) => {
    if (['GET', 'HEAD', 'OPTIONS'].includes(request.method)) return next();
    const origin = request.get('origin');
    const site = request.get('sec-fetch-site');
    if (origin !== undefined ? !isOrigin(origin, [...own, request.get('host') ?? '']) : site !== undefined && !['same-origin', 'none'].includes(site))
      throw new HttpProblem(403, 'Not from here', 'this request comes from another site');
    const hasBody = Number(request.get('content-length') ?? 0) > 0 || request.get('transfer-encoding') !== undefined;
    if (hasBody && !request.is(['json', '+json']))
      throw new HttpProblem(415, 'Not JSON', `the body is ${request.get('content-type') ?? 'of no type'}; send it as application/json`);
    next();
  };
}

/** How deep a body may be nested: what looks through it calls itself for each level. */
const DEEPEST = 64;

const unusable = (where: string) =>
  new HttpProblem(422, 'A character that cannot be kept', `${where} holds the character U+0000, which cannot be stored; leave it out`);

/** Refuses what no part behind could take: nesting without end, U+0000 and halves of characters, which PostgreSQL does not store. */
export const checkContent: RequestHandler = (request, _response, next) => {
  if (/%00/.test(request.originalUrl)) throw unusable('the address');
  const check = (text: string) => {
    if (text.includes('\0')) throw unusable('the body');
    if (!isWellFormed(text))
      throw new HttpProblem(422, 'Half a character', 'the body holds half of a character (a lone surrogate), which cannot be stored');
  };
  // Level by level, so that it needs no depth of its own.
  let level: unknown[] = typeof request.body === 'object' ? [request.body] : [];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DEEPEST) throw new HttpProblem(422, 'Nested too deep', `the body is nested more than ${DEEPEST} deep; nothing that is asked for is`);
    const below: unknown[] = [];
    for (const value of level) {
      if (value === null || typeof value !== 'object') continue;
      for (const [name, inner] of Object.entries(value)) {
        if (!Array.isArray(value)) check(name);
        // A name stands on one line, wherever it is shown or sent.
        if (typeof inner === 'string') check(inner);
        if (name === 'name' && typeof inner === 'string' && /\p{Cc}/u.test(inner))
          throw new HttpProblem(422, 'The body does not fit', 'a name holds a control character, such as a line break: leave it out', [
            { pointer: '/name', reason: 'it holds a control character, such as a line break: leave it out' },
          ]);
        below.push(inner);
      }
    }
    level = below;
  }
  next();
};

const isWellFormed = (text: string): boolean => !/\p{Surrogate}/u.test(text);
