import type { Change } from '@monsoon/core';
import { sayAny, sayProperty } from '@monsoon/core/text';
import chalk from 'chalk';
import Table from 'cli-table3';

/** How a command ends: 0 fine, 1 failed, 2 wrong usage, 3 something is held. */
export const exits = { fine: 0, failed: 1, usage: 2, held: 3 } as const;

export const isTerminal = (): boolean => process.stdout.isTTY === true;

/** Matches the colour codes that we print (ECMA-48, 8.3.117), and any other control character. */
const ESCAPE = String.fromCodePoint(0x1b);
const control = new RegExp(`(${ESCAPE}\\[(?:0|1|2|22|31|35|39)m)|(?![\\n\\t])\\p{Cc}`, 'gu');

/** Removes control characters that came from outside: a terminal would obey them. */
export const harmless = (text: string): string => text.replace(control, (_all, own: string | undefined) => own ?? '');

export const print = (text: string): void => void process.stdout.write(`${harmless(text)}\n`);
/** Prints to standard error, so that the output stays clean for pipes. */
export const printAside = (text: string): void => void process.stderr.write(`${harmless(text)}\n`);
export const printJson = (value: unknown): void => print(JSON.stringify(value, null, 2));

/** Records left, calendar right, in every table. On a terminal, cells are cut to what fits; piped, nothing is cut. */
export function table(head: string[], rows: string[][], empty: string): string {
  if (rows.length === 0) return empty;
  const bare = {
    top: '',
    'top-mid': '',
    'top-left': '',
    'top-right': '',
    bottom: '',
    'bottom-mid': '',
    'bottom-left': '',
    'bottom-right': '',
    left: '',
    'left-mid': '',
    mid: '',
    'mid-mid': '',
    right: '',
    'right-mid': '',
    middle: '  ',
  };
  const wide = isTerminal() ? fit(head, rows, process.stdout.columns ?? 100) : undefined;
  const made = new Table({
    head: head.map((h) => chalk.dim(h)),
    chars: bare,
    style: { 'padding-left': 0, 'padding-right': 0, head: [], border: [] },
    ...(wide === undefined ? {} : { colWidths: wide }),
  });
  for (const row of rows) made.push(row.map((c) => c.replace(/\s*\n\s*/g, ' / ')));
  return made.toString().replace(/[ \t]+$/gm, '');
}

function fit(head: string[], rows: string[][], total: number): number[] {
  const natural = head.map((h, i) => Math.max(h.length, ...rows.map((r) => (r[i] ?? '').length)));
  const spare = total - 2 * (head.length - 1);
  const widths = [...natural];
  while (widths.reduce((a, b) => a + b, 0) > spare && Math.max(...widths) > 12) widths[widths.indexOf(Math.max(...widths))]!--;
  return widths;
}

/** A time in UTC: Node's own zone tables may be out of date, and UTC is the same for everybody who reads the output. */
export const time = (iso: string | null): string => (iso === null ? '-' : `${iso.slice(0, 10)} ${iso.slice(11, 19)} UTC`);

export const when = (value: unknown): string => sayAny(value);

export const changeLines = (changes: Change[], indent = '    '): string[] =>
  changes.map(
    (c) =>
      `${indent}${c.side === 'record' ? 'record' : 'event'} ${c.property}: ${quoted(sayProperty(c.property, c.before))} -> ${quoted(sayProperty(c.property, c.after))}${c.seen === true ? ' (seen)' : ''}`,
  );

const quoted = (text: string) => (text === '' ? '(none)' : JSON.stringify(text.length > 100 ? `${text.slice(0, 99)}...` : text));

export const paint = {
  held: (text: string) => chalk.magenta(text),
  failed: (text: string) => chalk.red(text),
  dim: (text: string) => chalk.dim(text),
  strong: (text: string) => chalk.bold(text),
};

export const state = (text: string): string =>
  text === 'held' ? paint.held(text) : text === 'failed' || text === 'failing' ? paint.failed(text) : text;
