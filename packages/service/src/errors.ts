import { UnfitValue, UnreadableEvent, UnwritableEvent } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';

/**
 * What may be said of an error, and to whom. A statement that fails carries its parameters, and PostgreSQL repeats values
 * in its details: password hashes, baselines, records. Everything that leaves the code by an error goes through here.
 */

/** An error of PostgreSQL, as the driver gives it (PostgreSQL 15, appendix A; protocol 55.8). */
interface DatabaseError extends Error {
  code: string;
  severity: string;
  table?: string;
  column?: string;
  constraint?: string;
}

const isDatabaseError = (error: unknown): error is DatabaseError =>
  error instanceof Error &&
  'severity' in error &&
  typeof (error as DatabaseError).code === 'string' &&
  /^[0-9A-Z]{5}$/.test((error as DatabaseError).code);

/** Classes of SQLSTATE whose messages speak of the server and its state, never of a value. */
const plainClasses = ['08', '25', '40', '53', '55', '57', '58'];

/** Errors whose messages may repeat what they could not read. */
const repeating = ['SyntaxError', 'RangeError'];

const rootOf = (error: unknown): unknown =>
  error instanceof Error && 'query' in error && 'params' in error && error.cause !== undefined ? rootOf(error.cause) : error;

/** The error in a sentence that holds no value: for reasons of runs, mails, and jobs that are kept. */
export function sayError(error: unknown): string {
  const root = rootOf(error);
  if (root instanceof OutsideError || root instanceof UnfitValue || root instanceof UnreadableEvent || root instanceof UnwritableEvent)
    return root.message;
  if (isDatabaseError(root)) {
    if (plainClasses.includes(root.code.slice(0, 2))) return `the database refused: ${root.message} (SQLSTATE ${root.code})`;
    const where = [root.constraint, root.table, root.column].find((name) => name !== undefined);
    return `the database refused a statement (SQLSTATE ${root.code}${where === undefined ? '' : `, ${where}`})`;
  }
  if (!(root instanceof Error)) return 'an unknown error';
  // Of the statement that failed nothing is said; of its connection the cause is.
  if ('query' in root && 'params' in root) return 'a statement of the database failed';
  return repeating.includes(root.name) ? `${root.name} in Monsoon` : root.message;
}

/** Classes of SQLSTATE that say that the database is away, full, or takes no writes; and what a socket says of a lost connection. */
const downClasses = ['08', '25', '53', '57', '58'];
const lostConnection = ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND'];

/** Is it the database that is in trouble, and not the statement? Such a request may be tried again. */
export function isDatabaseDown(error: unknown): boolean {
  const root = rootOf(error);
  if (isDatabaseError(root)) return downClasses.includes(root.code.slice(0, 2));
  if (!(error instanceof Error) || !(root instanceof Error)) return false;
  const code = (root as { code?: string }).code ?? '';
  return 'query' in error && (lostConnection.includes(code) || /^Connection terminated|timeout exceeded when trying to connect/.test(root.message));
}

/** The error for the log: where it came from, without the message where that may hold values. */
export function logError(error: unknown): Record<string, unknown> {
  const root = rootOf(error);
  const stack = error instanceof Error ? error.stack : undefined;
  const at = stack?.slice(stack.search(/^ {4}at /m));
  return {
    type: root instanceof Error ? root.name : typeof root,
    message: sayError(root),
    ...(isDatabaseError(root) ? { code: root.code, constraint: root.constraint, table: root.table } : {}),
    ...(error instanceof Error && 'query' in error ? { statement: String(error.query).slice(0, 300) } : {}),
    ...(stack === undefined || !stack.includes('\n    at ') ? {} : { at }),
  };
}

/** Is it a value of the statement that the database does not take: out of range, of another form, too long (SQLSTATE classes 22 and 54)? */
export function isUnfitValue(error: unknown): boolean {
  const root = rootOf(error);
  return isDatabaseError(root) && ['22', '54'].includes(root.code.slice(0, 2));
}
