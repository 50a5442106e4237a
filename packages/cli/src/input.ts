import { readFileSync } from 'node:fs';
import { createInterface } from 'node:readline/promises';
import { InvalidArgumentError } from 'commander';
import { parse } from 'yaml';

/** Something a person gave does not fit: exit code 2. */
export class WrongInput extends Error {
  override name = 'WrongInput';
}

/** Reads a YAML file that holds a mapping. @throws WrongInput naming the file, the reason and the way out */
export function readYaml<T extends object>(file: string): T {
  let value: unknown;
  try {
    value = parse(readFileSync(file, 'utf8'));
  } catch (error) {
    const reason = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file; check the path' : (error as Error).message.trim();
    throw new WrongInput(`${file}: ${reason}`);
  }
  if (value === null || typeof value !== 'object' || Array.isArray(value))
    throw new WrongInput(`${file}: it holds no settings; write them as "name: value", one a line`);
  return value as T;
}

/** A number of rows, for options. */
export const rowCount = (text: string): number => {
  if (!/^\d+$/.test(text) || Number(text) < 1 || Number(text) > 500) throw new InvalidArgumentError('give a whole number from 1 to 500.');
  return Number(text);
};

/** A version of a lane, for arguments and options. */
export const versionNumber = (text: string): number => {
  if (!/^[1-9]\d{0,8}$/.test(text)) throw new InvalidArgumentError('give the number of a version, such as 2.');
  return Number(text);
};

/** Asks on a terminal; elsewhere the option must say it. */
export async function confirm(question: string): Promise<boolean> {
  if (!process.stdin.isTTY) return false;
  const asking = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return /^y(es)?$/i.test((await asking.question(`${question} [y/N] `)).trim());
  } finally {
    asking.close();
  }
}
