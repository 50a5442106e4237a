import { readFileSync, writeFileSync } from 'node:fs';
import { expect } from 'chai';

/** Writes the current output as approved. Read the difference before you commit it. */
export const approving = process.env['MONSOON_APPROVE'] !== undefined;

/** Compares lines with those that a person has read and approved. */
export function compareApproved(file: string, lines: readonly string[]): void {
  if (approving) writeFileSync(file, `${lines.join('\n')}\n`);
  const approved = readFileSync(file, 'utf8').split('\n').slice(0, -1);
  // Line by line: an assertion about a long text takes long to fail.
  const at = lines.findIndex((line, i) => line !== approved[i]);
  if (at >= 0) expect(lines[at], `line ${at + 1} of ${file}`).to.equal(approved[at]);
  expect(lines.length, `lines of ${file}`).to.equal(approved.length);
}
