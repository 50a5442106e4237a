// Finds fixed histories that together reach the most mutants: node tools/mutants/choose.mjs [how many] [drawn of each kind]
import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Instrumenter } from '@stryker-mutator/instrumenter';
import { copyTree, mutated, root, tree } from './tree.mjs';

const wanted = Number(process.argv[2] ?? 40);
const drawn = Number(process.argv[3] ?? 2000);
/** A mutant that is reached once need not be noticed: so many histories that reach it count. */
const TIMES = 3;

copyTree();
const quiet = new Proxy({}, { get: () => () => undefined });
const files = mutated().map((file) => ({ name: join(tree, file), mutate: true, content: readFileSync(join(tree, file), 'utf8') }));
const instrumented = await new Instrumenter(quiet).instrument(files, { ignorers: [], plugins: null, excludedMutations: [] });
for (const { name, content } of instrumented.files) writeFileSync(name, content);

const workers = availableParallelism();
const play = (from, until) =>
  new Promise((done, failed) => {
    const node = ['--import', 'tsx', '--conditions=source', '--no-warnings', join(tree, 'tools/mutants/reach.ts'), String(from), String(until)];
    const child = spawn(process.execPath, node, { cwd: tree, stdio: ['ignore', 'pipe', 'inherit'] });
    let out = '';
    child.stdout.on('data', (data) => {
      out += data;
    });
    child.on('exit', (code) =>
      code === 0
        ? done(
            out
              .split('\n')
              .filter(Boolean)
              .map((line) => JSON.parse(line)),
          )
        : failed(new Error(`exit ${code}`)),
    );
  });
const share = Math.ceil(drawn / workers);
const played = (await Promise.all(Array.from({ length: workers }, (_, i) => play(1 + i * share, 1 + (i + 1) * share)))).flat();
rmSync(tree, { recursive: true, force: true });

const reached = new Map();
const gainOf = ({ mutants }) => mutants.reduce((sum, m) => sum + Math.max(0, TIMES - (reached.get(m) ?? 0)), 0);
const chosen = [];
while (chosen.length < wanted) {
  let best = null;
  let most = 0;
  for (const one of played) {
    if (chosen.includes(one)) continue;
    const gain = gainOf(one);
    // Short ones first: each survivor costs the time of every history that reaches it.
    if (gain / (one.milliseconds + 20) > most) [best, most] = [one, gain / (one.milliseconds + 20)];
  }
  if (best === null) break;
  for (const m of best.mutants) reached.set(m, (reached.get(m) ?? 0) + 1);
  chosen.push(best);
  console.log(`${best.name}: ${reached.size} mutants reached`);
}
const all = new Set(played.flatMap((p) => p.mutants));
console.log(`${reached.size} of ${all.size} that ${played.length} histories reach, of ${instrumented.mutants.length} mutants`);
const folder = join(root, 'test/simulation/approved');
mkdirSync(folder, { recursive: true });
for (const name of readdirSync(folder)) rmSync(join(folder, name));
for (const { name, history } of chosen) writeFileSync(join(folder, `${name}.txt`), `${JSON.stringify(history)}\n`);
console.log(`Written to ${folder}, without what is approved: MONSOON_APPROVE=1, and read it.`);
