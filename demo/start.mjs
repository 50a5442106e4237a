// The whole demo from a fresh checkout: sets up what is missing, then starts demo.ts. Needs nothing but Node and bash.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const run = (command, args) =>
  new Promise((resolve) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit' });
    // Ctrl-C reaches the child as well; it is the one that knows what to stop.
    process.on('SIGINT', () => undefined);
    process.on('SIGTERM', () => child.kill('SIGTERM'));
    child.on('exit', (code, signal) => resolve(code ?? (signal === null ? 1 : 130)));
  });

const prepared = await run('bash', ['scripts/setup.sh', 'demo']);
process.exit(prepared !== 0 ? prepared : await run(process.execPath, ['--import', 'tsx', 'demo/demo.ts', ...process.argv.slice(2)]));
