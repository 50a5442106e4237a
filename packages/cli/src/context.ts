import { MonsoonClient } from '@monsoon/contract/client';
import type { Command } from 'commander';
import { readSettings, type Settings } from './settings.ts';

/** What every command works with. */
export interface Context {
  client: MonsoonClient;
  settings: Settings;
  json: boolean;
}

/** Makes the context from the settings and the options that every command has. */
export function makeContext(program: Command): Context {
  const options = program.opts<{ url?: string; json?: boolean }>();
  const settings = readSettings(options.url);
  return { client: new MonsoonClient({ address: settings.address, token: settings.token }), settings, json: options.json === true };
}

/** An action that gets the context first. */
export const withContext =
  <A extends unknown[]>(program: Command, action: (context: Context, ...args: A) => Promise<void>) =>
  (...args: A): Promise<void> =>
    action(makeContext(program), ...args);
