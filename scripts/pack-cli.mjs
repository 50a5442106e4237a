// Packs the command line into one file to be installed anywhere with Node.js 20: npm run pack:cli [-- FOLDER]
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { build } from 'esbuild';

const root = resolve(import.meta.dirname, '..');
const { version, license } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
const folder = join(root, '.data/pack');
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
await build({
  entryPoints: [join(root, 'packages/cli/src/main.ts')],
  outfile: join(folder, 'monsoon.mjs'),
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  conditions: ['source'],
  // Starting a service needs the whole of Monsoon.
  external: ['@monsoon/service'],
  banner: { js: "#!/usr/bin/env node\nimport { createRequire as requireFrom } from 'node:module';\nconst require = requireFrom(import.meta.url);" },
});
writeFileSync(
  join(folder, 'package.json'),
  JSON.stringify({ name: 'monsoon-cli', version, license, type: 'module', bin: { monsoon: './monsoon.mjs' }, engines: { node: '>=20.11' } }, null, 2),
);
writeFileSync(
  join(folder, 'README.md'),
  '# The command line of Monsoon\n\n`monsoon --help` lists what there is; `monsoon --url ADDRESS sign-in --email YOU` comes first.\n',
);
execFileSync('npm', ['pack', '--silent', '--pack-destination', resolve(process.argv[2] ?? root)], { cwd: folder, stdio: 'inherit' });
