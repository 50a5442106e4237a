// Mutation testing of the core: npm run mutants [-- --changed [REVISION] | FILE ...] [--static] [--units]
import { spawnSync } from 'node:child_process';
import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { report } from './report.mjs';
import { copyTree, folders, git, here, mutated, root, tree } from './tree.mjs';

/** The files to mutate: those given, those that differ from the last commit of main, or all. */
function chosen(args) {
  const inFolders = (file) => folders.some((f) => file.startsWith(`${f}/`)) && file.endsWith('.ts');
  if (args.includes('--changed')) {
    const base = args[args.indexOf('--changed') + 1] ?? 'HEAD';
    return [...git('diff', '--name-only', base), ...git('ls-files', '--others', '--exclude-standard')].filter(inFolders);
  }
  const known = mutated();
  const named = args.filter((arg) => arg !== '--static' && arg !== '--units');
  if (named.length === 0) return known;
  return named.flatMap((arg) => {
    const found = known.filter((file) => file === arg || file.includes(`/${arg}`));
    if (found.length === 0) throw new Error(`${arg}: no file of the mutated folders has this name; they are ${folders.join(', ')}`);
    return found;
  });
}

const mutate = chosen(process.argv.slice(2));
if (mutate.length === 0) {
  console.log('no file of the mutated folders has changed');
  process.exit(0);
}
if (!existsSync(join(here, 'node_modules'))) spawnSync('npm', ['ci', '--no-audit', '--no-fund'], { cwd: here, stdio: 'inherit' });
copyTree();
const json = join(root, '.data/mutants/mutants.json');
const unitsAlone = process.argv.includes('--units');
const units = ['packages/core/test/**/*.test.ts'];
const settings = {
  testRunner: 'mocha',
  plugins: [join(here, 'node_modules/@stryker-mutator/mocha-runner/dist/src/index.js')],
  mochaOptions: {
    config: join(here, 'mocharc.json'),
    require: [join(tree, 'tools/mutants/no-shrinking.mjs')],
    // The core's own tests alone are several times as fast, and notice somewhat less.
    spec: unitsAlone ? units : [...units, 'packages/service/test/fixed-histories.test.ts', 'packages/service/test/kept-histories.test.ts'],
  },
  testRunnerNodeArgs: ['--import', 'tsx', '--conditions=source', '--no-warnings'],
  coverageAnalysis: 'perTest',
  // What runs once when a module is loaded needs a fresh process and every test for each mutant: hours, for tables and schemas.
  ignoreStatic: !process.argv.includes('--static'),
  inPlace: true,
  mutate,
  concurrency: Number(process.env.MUTANTS_AT_ONCE ?? availableParallelism()),
  // Beside what the tests took: a mutant that loops waits for it.
  timeoutMS: unitsAlone ? 6_000 : 20_000,
  reporters: ['progress-append-only', 'json'],
  jsonReporter: { fileName: json },
  tempDirName: join(root, '.data/mutants/tmp'),
  disableTypeChecks: false,
  allowConsoleColors: false,
};
writeFileSync(join(tree, 'stryker.config.json'), JSON.stringify(settings, null, 2));
const ended = spawnSync(process.execPath, [join(here, 'node_modules/@stryker-mutator/core/bin/stryker.js'), 'run'], { cwd: tree, stdio: 'inherit' });
rmSync(tree, { recursive: true, force: true });
if (ended.status !== 0) process.exit(ended.status ?? 1);
process.exit(report(json, join(here, 'explained.yaml'), root) ? 0 : 1);
