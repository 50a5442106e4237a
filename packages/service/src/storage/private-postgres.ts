import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';

const script = fileURLToPath(new URL('../../scripts/postgres.sh', import.meta.url));
const run = promisify(execFile);

/**
 * A PostgreSQL of our own on loopback, in the data folder; made at the first start. Several services share it: the last
 * of them stops it.
 * @throws Error saying what is missing
 */
export async function startPrivatePostgres(dataFolder: string): Promise<{ url: string; stop: () => Promise<void> }> {
  const folder = join(dataFolder, 'postgres');
  try {
    const { stdout } = await run('bash', [script, 'start', folder, String(process.pid)], { timeout: 120_000 });
    return {
      url: stdout.trim(),
      stop: async () => {
        await run('bash', [script, 'stop', folder, String(process.pid)], { timeout: 60_000 });
      },
    };
  } catch (error) {
    throw new Error(`the private PostgreSQL did not start: ${String((error as { stderr?: string }).stderr ?? (error as Error).message).trim()}`);
  }
}
