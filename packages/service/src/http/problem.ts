import { pointerOf } from '@monsoon/arranging';
import { type Problem, sayNearest } from '@monsoon/core';
import { OutsideError, TookTooLong, TooMuchWork } from '@monsoon/systems';
import type { ErrorRequestHandler, Response } from 'express';
import type { Logger } from 'pino';
import { type AnyObjectSchema, type ISchema, reach, type ValidationError } from 'yup';
import { isDatabaseDown, isUnfitValue, sayError } from '../errors.ts';

/** An answer that says no, and what to do (RFC 9457). */
export class HttpProblem extends Error {
  override name = 'HttpProblem';
  readonly status: number;
  readonly title: string;
  readonly problems: Problem[];

  constructor(status: number, title: string, detail: string, problems: Problem[] = []) {
    super(detail);
    this.status = status;
    this.title = title;
    this.problems = problems;
  }
}

export const notFound = (noun: string, given: string, known: readonly string[] = []): HttpProblem =>
  new HttpProblem(404, `No such ${noun}`, `there is no ${noun} "${given}"${known.length > 0 ? `; there are ${known.join(', ')}` : ''}`);

/** The value that was given, where it is short and can be no secret; who stands before the @ of an address may be one. */
function given(error: ValidationError, where: string): string {
  const value = error.params?.['originalValue'];
  const plain = typeof value === 'string' ? value !== '' && value.length <= 100 : typeof value === 'number' || typeof value === 'boolean';
  if (!plain || where === 'secrets' || /pass|secret|token/i.test(error.path ?? '') || error.errors.some((e) => e.includes(String(value)))) return '';
  return ` (given: ${JSON.stringify(value).replace(/\/\/[^@/\s]*@/, '//***@')})`;
}

/** Yup ends a wrong type with the value, in whatever shape it came: it may be a secret in the wrong place. */
const withoutValue = (message: string): string =>
  message.replace(/,? but the final value was: [\s\S]*$/, '').replace(/ a `(\w+)` type$/, ' of type $1');

/** Most problems in one answer. */
const MOST_PROBLEMS = 100;

/** What is not known where it stands, each with what there is. Null for any other finding. */
function unknownKeys(error: ValidationError, schema: ISchema<unknown> | undefined): Problem[] | null {
  if (error.type !== 'noUnknown' || schema === undefined) return null;
  const path = error.path ?? '';
  let known: string[];
  try {
    known = Object.keys(((path === '' ? schema : reach(schema as never, path)) as AnyObjectSchema).fields ?? {});
  } catch {
    return null;
  }
  if (known.length === 0) return null;
  const keys = String(error.params?.['unknown'] ?? '')
    .split(', ')
    .slice(0, MOST_PROBLEMS);
  return keys.map((key) => ({
    pointer: `${pointerOf(path)}/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`,
    reason: `"${key}" is not known ${path === '' ? 'here' : `in ${path}`}; there are ${known.join(', ')}${sayNearest(key, known)}`,
  }));
}

/** @param schema what it was checked against, to say what is known where something unknown stands */
export function invalid(error: ValidationError, where: string, schema?: ISchema<unknown>): HttpProblem {
  const inner = error.inner.length > 0 ? error.inner.slice(0, MOST_PROBLEMS) : [error];
  const problems = inner.flatMap(
    (e) => unknownKeys(e, schema) ?? [{ pointer: pointerOf(e.path ?? ''), reason: e.errors.map(withoutValue).join('; ') + given(e, where) }],
  );
  return new HttpProblem(422, `The ${where} does not fit`, problems.map((p) => p.reason).join('; '), problems);
}

export function send(response: Response, problem: HttpProblem): void {
  response
    .status(problem.status)
    .type('application/problem+json')
    .json({
      type: 'about:blank',
      title: problem.title,
      status: problem.status,
      detail: problem.message,
      ...(problem.problems.length > 0 ? { problems: problem.problems } : {}),
    });
}

/** Turns whatever was thrown into a problem; only the unexpected is logged as an error, and answered without its details. */
export function problemHandler(log: Logger): ErrorRequestHandler {
  return (error: unknown, request, response, _next) => {
    if (response.headersSent) {
      // An answer that breaks off must not look whole, and what broke it goes into the log alone.
      log.error({ error, path: request.path }, 'an answer broke off');
      return response.destroy();
    }
    if (error instanceof HttpProblem) return send(response, error);
    if (error instanceof TookTooLong || error instanceof TooMuchWork)
      return send(response, new HttpProblem(422, 'Too much at once', `${error.message}: ask for less, such as a shorter time`));
    if (error instanceof OutsideError) return send(response, new HttpProblem(502, 'Error from an external system', error.message));
    const status = Number((error as { status?: unknown }).status);
    if (status === 413) {
      const { limit } = error as { limit?: number };
      return send(response, new HttpProblem(413, 'Too large', `the body is larger than ${limit ?? 0} octets, which is the most that is read here`));
    }
    if (status >= 400 && status < 500) return send(response, new HttpProblem(status, 'The request cannot be read', (error as Error).message));
    if (isUnfitValue(error)) {
      log.warn({ error, path: request.path }, 'a request held a value that the database does not take');
      return send(response, new HttpProblem(422, 'A value does not fit', 'a value of the request is too large, or of a form that cannot be stored'));
    }
    log.error({ error, path: request.path }, 'a request failed inside Monsoon');
    if (isDatabaseDown(error)) {
      response.set('retry-after', '5');
      return send(response, new HttpProblem(503, 'The database is not available', sayError(error)));
    }
    send(response, new HttpProblem(500, 'Monsoon failed', 'this is a fault in Monsoon; its log has the details'));
  };
}
