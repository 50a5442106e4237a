// Mutation testing of the core: npm run mutants [-- --changed | --since REVISION | FILE ...] [--static] [--units | --tests NAME,NAME]
import { spawnSync } from 'node:child_process';
import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { report } from './report.mjs';
import { copyTree, folders, git, here, mutated, root, tree } from './tree.mjs';

/** Ends with what is wrong, in a line. */
function refuse(reason) {
  console.error(reason);
  process.exit(2);
}

function readArguments() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        changed: { type: 'boolean', default: false },
        since: { type: 'string' },
        static: { type: 'boolean', default: false },
        units: { type: 'boolean', default: false },
        tests: { type: 'string' },
      },
    });
  } catch (error) {
    return refuse(error.message);
  }
}

const { values: given, positionals } = readArguments();

/** The files to mutate: those given, those that differ from the last commit or another one, or all. */
function chosen() {
  const inFolders = (file) => folders.some((f) => file.startsWith(`${f}/`)) && file.endsWith('.ts');
  if (given.changed || given.since !== undefined) {
    const since = given.since ?? 'HEAD';
    if (spawnSync('git', ['rev-parse', '--verify', '--quiet', `${since}^{commit}`], { cwd: root }).status !== 0)
      refuse(`--since ${since}: there is no such revision`);
    return [...git('diff', '--name-only', since), ...git('ls-files', '--others', '--exclude-standard')].filter(inFolders);
  }
  const known = mutated();
  if (positionals.length === 0) return known;
  return positionals.flatMap((name) => {
    const found = known.filter((file) => file === name || file.includes(`/${name}`));
    if (found.length === 0) refuse(`${name}: no file of the mutated folders has this name; they are ${folders.join(', ')}`);
    return found;
  });
}

/** The tests that are asked: fewer are several times as fast, and notice no more. */
function tests() {
  if (given.tests !== undefined)
    return given.tests.split(',').map((name) => {
      const file = `packages/core/test/${name}.test.ts`;
      return existsSync(join(root, file)) ? file : refuse(`--tests ${name}: there is no ${file}`);
    });
  const units = ['packages/core/test/**/*.test.ts'];
  return given.units ? units : [...units, 'packages/service/test/fixed-histories.test.ts', 'packages/service/test/kept-histories.test.ts'];
}

const mutate = chosen();
const spec = tests();
if (mutate.length === 0) {
  console.log('no file of the mutated folders has changed');
  process.exit(0);
}
if (!existsSync(join(here, 'node_modules'))) spawnSync('npm', ['ci', '--no-audit', '--no-fund'], { cwd: here, stdio: 'inherit' });
copyTree();
const json = join(root, '.data/mutants/mutants.json');
const withHistories = !given.units && given.tests === undefined;
const settings = {
  testRunner: 'mocha',
  plugins: [join(here, 'node_modules/@stryker-mutator/mocha-runner/dist/src/index.js')],
  mochaOptions: {
    config: join(here, 'mocharc.json'),
    require: [join(tree, 'tools/mutants/no-shrinking.mjs')],
    spec,
  },
  testRunnerNodeArgs: ['--import', 'tsx', '--conditions=source', '--no-warnings'],
  coverageAnalysis: 'perTest',
  // What runs once when a module is loaded needs a fresh process and every test for each mutant: hours, for tables and schemas.
  ignoreStatic: !given.static,
  inPlace: true,
  mutate,
  concurrency: Number(process.env.MUTANTS_AT_ONCE ?? availableParallelism()),
  // Beside what the tests took: a mutant that loops waits for it.
  timeoutMS: withHistories ? 20_000 : 6_000,
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
