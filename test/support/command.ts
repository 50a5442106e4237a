import { execFile } from 'node:child_process';
import { resolve } from 'node:path';

// As people run it, where it is known to be built; else from its sources.
const cli = resolve(import.meta.dirname, '../../packages/cli');
export const main =
  process.env['MONSOON_TEST_BUILT'] === '1'
    ? [`${cli}/dist/main.js`]
    : ['--import', import.meta.resolve('tsx'), '--conditions=source', `${cli}/src/main.ts`];

export interface Said {
  code: number;
  out: string;
  err: string;
}

/** The command line as a process of its own, in a folder, talking to a service. */
export const commandIn =
  (folder: string, service: () => { address: string; token: string }) =>
  (args: string[], env: Record<string, string> = {}): Promise<Said> =>
    new Promise((fine) => {
      execFile(
        process.execPath,
        ['--no-warnings', ...main, ...args],
        {
          cwd: folder,
          env: { PATH: process.env['PATH']!, HOME: folder, NODE_PATH: '', MONSOON_URL: service().address, MONSOON_TOKEN: service().token, ...env },
        },
        (error, out, err) => fine({ code: typeof error?.code === 'number' ? error.code : error === null ? 0 : 1, out, err }),
      );
    });
