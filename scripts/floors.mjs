// Checks that imports only run downwards. Reads import lines of every package and compares them with the plan of the house.
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = process.argv[2] ?? fileURLToPath(new URL('..', import.meta.url));
const may = {
  core: [],
  systems: ['core'],
  'system-tests': ['core', 'systems'],
  contract: ['core'],
  arranging: ['core'],
  service: ['core', 'contract', 'arranging', 'systems'],
  cli: ['contract', 'arranging', 'core'],
  console: ['contract', 'arranging', 'core'],
  standins: [],
};
// The core computes: from outside it takes libraries of values only.
const coreLibraries = ['temporal-polyfill', 'uuid', 'yup'];

const files = (folder) =>
  readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((e) => e.isFile() && /\.tsx?$/.test(e.name))
    .map((e) => join(e.parentPath ?? e.path, e.name));

let wrong = 0;
let seen = 0;
for (const [name, below] of Object.entries(may)) {
  const home = resolve(root, 'packages', name, 'src');
  for (const file of files(home)) {
    for (const [, target] of readFileSync(file, 'utf8').matchAll(/(?<!['\w])(?:from|import)\s*\(?\s*'([^']+)'/g)) {
      seen++;
      const complain = (why) => {
        wrong++;
        console.error(`${relative(root, file)}: imports ${target}: ${why}`);
      };
      if (target.startsWith('.')) {
        if (!resolve(dirname(file), target).startsWith(`${home}/`)) complain('leaves its package');
      } else if (target.startsWith('@monsoon/')) {
        const other = target.split('/')[1];
        if (!below.includes(other)) complain(`${name} may import ${below.join(', ') || 'nothing of ours'}`);
      } else if (name === 'core' && !coreLibraries.includes(target)) complain(`the core imports ${coreLibraries.join(', ')} only`);
    }
  }
}
if (seen < 100) {
  console.error(`only ${seen} imports were seen: the checker does not see the code`);
  wrong++;
}
console.log(`floors: ${seen} imports, ${wrong} wrong`);
process.exit(wrong > 0 ? 1 : 0);
