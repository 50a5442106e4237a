// Finds histories that notice the survivors of the last report: node tools/mutants/notice.mjs MUTANTS.json [FROM] [UNTIL]
import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Instrumenter } from '@stryker-mutator/instrumenter';
import { copyTree, mutated, root } from './tree.mjs';

const reports = process.argv[2].split(',').map((file) => JSON.parse(readFileSync(file, 'utf8')).files);
const from = process.argv[3] ?? '1';
const until = process.argv[4] ?? '1000';
const tree = join(root, '.data/mutants/noticing');
copyTree(tree);
const quiet = new Proxy({}, { get: () => () => undefined });
const files = mutated().map((file) => ({ name: join(tree, file), mutate: true, content: readFileSync(join(tree, file), 'utf8') }));
const instrumented = await new Instrumenter(quiet).instrument(files, { ignorers: [], plugins: null, excludedMutations: [] });
for (const { name, content } of instrumented.files) writeFileSync(name, content);

// The report counts lines and columns from 1, the instrumenter from 0.
const keyOf = (file, { start, end }, replacement, by) =>
  JSON.stringify([file.slice(file.indexOf('packages/')), start.line + by, start.column + by, end.line + by, end.column + by, replacement]);
const survived = new Set();
for (const report of reports)
  for (const [file, { mutants }] of Object.entries(report))
    for (const m of mutants) if (m.status === 'Survived' || m.status === 'NoCoverage') survived.add(keyOf(file, m.location, m.replacement, 0));
const ids = instrumented.mutants.filter((m) => survived.has(keyOf(m.fileName, m.location, m.replacement, 1))).map((m) => m.id);
console.log(`${ids.length} of ${survived.size} survivors found again`);

const workers = Number(process.env.MUTANTS_AT_ONCE ?? availableParallelism());
const lists = Array.from({ length: workers }, (_, i) => ids.filter((_, n) => n % workers === i));
const answers = await Promise.all(
  lists.map(
    (list, i) =>
      new Promise((done) => {
        mkdirSync(join(root, '.data/mutants'), { recursive: true });
        const file = join(root, `.data/mutants/survivors-${i}.json`);
        writeFileSync(file, JSON.stringify(list));
        const node = ['--import', 'tsx', '--conditions=source', '--no-warnings', join(tree, 'tools/mutants/notice.ts'), from, until, file];
        const child = spawn(process.execPath, node, { cwd: tree, stdio: ['ignore', 'pipe', 'inherit'] });
        let out = '';
        child.stdout.on('data', (data) => {
          out += data;
        });
        child.on('exit', () =>
          done(
            out
              .split('\n')
              .filter(Boolean)
              .map((line) => JSON.parse(line)),
          ),
        );
      }),
  ),
);
rmSync(tree, { recursive: true, force: true });
const all = answers.flat();
const byHistory = new Map();
for (const { history } of all) if (history !== null) byHistory.set(history, (byHistory.get(history) ?? 0) + 1);
for (const [history, times] of [...byHistory].sort((a, b) => b[1] - a[1])) console.log(`${history} notices ${times}`);
console.log(
  `${all.filter((a) => a.history !== null).length} of ${ids.length} are noticed by ${byHistory.size} histories; ${all.filter((a) => a.reaching === 0).length} are reached by none`,
);
// One that notices a single mutant costs the time of every mutant that it reaches.
for (const [history, times] of byHistory)
  if (times > 1) writeFileSync(join(root, 'test/simulation/approved', `${history}.txt`), `${all.find((a) => a.history === history).text}\n`);
console.log('Written to test/simulation/approved, without what is approved: MONSOON_APPROVE=1, and read it.');
