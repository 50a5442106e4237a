import { readFileSync } from 'node:fs';
import { basename, extname } from 'node:path';
import type { LaneFileCheck } from '@monsoon/contract';
import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { confirm, versionNumber, WrongInput } from '../input.ts';
import { exits, paint, print, printAside, printJson, table, time } from '../output.ts';
import { printForecast } from './lanes.ts';

/** The text of a lane file, and the short name of its lane. */
function readLaneFile(file: string): { slug: string; text: string } {
  try {
    return { slug: basename(file, extname(file)), text: readFileSync(file, 'utf8') };
  } catch (error) {
    const reason = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file; check the path' : (error as Error).message;
    throw new WrongInput(`${file}: ${reason}`);
  }
}

const shown = (value: unknown) => (value === null || value === undefined ? '(nothing)' : typeof value === 'string' ? value : JSON.stringify(value));

const changesTable = (changes: { pointer: string; before?: unknown; after?: unknown }[]) =>
  table(
    ['Setting', 'Before', 'After'],
    changes.map((c) => [c.pointer.slice(1), shown(c.before), shown(c.after)]),
    'No setting differs.',
  );

function printFindings(file: string, { problems }: LaneFileCheck): void {
  for (const p of problems)
    printAside(paint.failed(`${file}:${p.line ?? 1}:${p.column ?? 1}: ${p.pointer === '' ? '' : `${p.pointer}: `}${p.reason}`));
}

/** Lane files and the versions of lanes. */
export function laneFileCommands(program: Command): void {
  const lanes = program.commands.find((c) => c.name() === 'lanes')!;
  lanes
    .command('check')
    .description('check a lane file: findings with line and column, what it does, and what it would change')
    .requiredOption('-f, --file <file>', 'YAML; the short name of the lane is the name of the file')
    .addHelpText('after', '\nExample:\n  monsoon lanes check -f demo/lanes/tuning-visits.yaml')
    .action(
      withContext(program, async ({ client, json }, options: { file: string }) => {
        const { slug, text } = readLaneFile(options.file);
        const checked = await client.checkLaneFile(slug, text);
        if (json) printJson(checked);
        else if (checked.problems.length > 0) printFindings(options.file, checked);
        else {
          for (const line of checked.says) print(line);
          for (const warning of checked.warnings) print(paint.held(`Warning: ${warning}`));
          print(
            checked.version === null
              ? `\nIt would make the lane ${slug}.`
              : `\nAgainst version ${checked.version} of ${slug}:\n${changesTable(checked.changes)}`,
          );
        }
        if (checked.problems.length > 0) process.exitCode = exits.usage;
      }),
    );
  lanes
    .command('apply')
    .description('make a lane from a lane file, or save the file as its next version after showing what that would do')
    .requiredOption('-f, --file <file>', 'YAML; the short name of the lane is the name of the file')
    .option('--paused', 'make it without starting it')
    .option('--yes', 'do not ask: for scripts')
    .addHelpText('after', '\nExample:\n  monsoon lanes apply -f demo/lanes/tuning-visits.yaml')
    .action(
      withContext(program, async ({ client, json }, options: { file: string; paused?: boolean; yes?: boolean }) => {
        const { slug, text } = readLaneFile(options.file);
        const checked = await client.checkLaneFile(slug, text);
        if (checked.problems.length > 0) {
          if (json) printJson(checked);
          else printFindings(options.file, checked);
          process.exitCode = exits.usage;
          return;
        }
        if (!json) for (const warning of checked.warnings) print(paint.held(`Warning: ${warning}`));
        const changes = checked.version !== null && checked.changes.length > 0;
        if (changes && !json) {
          print(changesTable(checked.changes));
          printForecast(slug, await client.forecast(slug, checked.definition));
        }
        if (changes && options.yes !== true && !(await confirm(`\nSave it as version ${checked.version! + 1}?`)))
          throw new WrongInput(`nothing was saved; say --yes to save it as version ${checked.version! + 1} of ${slug}`);
        const lane = await client.applyLaneFile(slug, text, { start: options.paused !== true, version: checked.version ?? 0 });
        if (json) return printJson(lane);
        print(
          checked.version === null
            ? `Made the lane ${slug}. It is ${lane.state}.`
            : lane.version === checked.version
              ? `${slug} is as the file says already (version ${lane.version}).`
              : `Saved version ${lane.version} of ${slug}. Its next run reads everything again.`,
        );
      }),
    );
  lanes
    .command('export')
    .argument('<lane>')
    .argument('[version]', 'the last unless said', versionNumber)
    .description('the lane file of a lane, with its comments; of the last version unless said')
    .addHelpText('after', '\nExample:\n  monsoon lanes export tuning-visits > tuning-visits.yaml')
    .action(
      withContext(program, async ({ client, json }, slug: string, version: number | undefined) => {
        const file = await client.laneFile(slug, version);
        if (json) return printJson(file);
        process.stdout.write(file.text);
      }),
    );
  lanes
    .command('versions <lane>')
    .description('the versions of a lane, newest first, and what each changed')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const { items } = await client.versions(slug);
        if (json) return printJson(items);
        for (const v of items) {
          print(`${paint.strong(`Version ${v.version}`)}  ${time(v.madeAt)}  ${v.madeBy}`);
          if (v.changes.length > 0) print(`${changesTable(v.changes)}\n`);
        }
      }),
    );
  lanes
    .command('compare <lane>')
    .description('what differs between two versions of a lane, or between a lane file and the lane')
    .option('--from <n>', 'a version; the one before the last unless said', versionNumber)
    .option('--to <n>', 'a version; the last unless said', versionNumber)
    .option('-f, --file <file>', 'a lane file, against the lane as it is')
    .addHelpText(
      'after',
      '\nExamples:\n  monsoon lanes compare tuning-visits --from 1 --to 3\n  monsoon lanes compare tuning-visits -f tuning-visits.yaml',
    )
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { from?: number; to?: number; file?: string }) => {
        if (options.file !== undefined) {
          const checked = await client.checkLaneFile(slug, readLaneFile(options.file).text);
          if (json) printJson(checked);
          else if (checked.problems.length > 0) printFindings(options.file, checked);
          else print(changesTable(checked.changes));
          if (checked.problems.length > 0) process.exitCode = exits.usage;
          return;
        }
        const { items } = await client.versions(slug);
        const to = options.to ?? items[0]?.version ?? 1;
        const from = options.from ?? to - 1;
        const unknown = [from, to].find((n) => n !== 0 && !items.some((v) => v.version === n));
        if (unknown !== undefined) throw new WrongInput(`${slug} has the versions 1 to ${items[0]?.version ?? 1}; there is no ${unknown}`);
        const between = items.filter((v) => v.version > Math.min(from, to) && v.version <= Math.max(from, to)).reverse();
        const changes = mergeChanges(between.map((v) => v.changes));
        const turned = from > to ? changes.map((c) => ({ ...c, before: c.after, after: c.before })) : changes;
        if (json) return printJson(turned);
        print(changesTable(turned));
      }),
    );
  lanes
    .command('bring-back')
    .argument('<lane>')
    .argument('<version>', 'the version to save again', versionNumber)
    .description('save an earlier version as the next one')
    .option('--yes', 'do not ask: for scripts')
    .action(
      withContext(program, async ({ client, json }, slug: string, version: number, options: { yes?: boolean }) => {
        const { text } = await client.laneFile(slug, version);
        const checked = await client.checkLaneFile(slug, text);
        if (!json) print(changesTable(checked.changes));
        if (options.yes !== true && !(await confirm('\nSave it as the next version?')))
          throw new WrongInput(`nothing was saved; say --yes to bring version ${version} back`);
        const lane = await client.applyLaneFile(slug, text, { version: checked.version ?? 0 });
        if (json) return printJson(lane);
        print(`${slug} is at version ${lane.version}, which says what version ${version} said.`);
      }),
    );
  lanes
    .command('schema')
    .description('a JSON Schema of lane files, for editors')
    .action(withContext(program, async ({ client }) => printJson(await client.laneSchema())));
}

/** Changes of several versions in a row, as one. */
function mergeChanges(all: { pointer: string; before?: unknown; after?: unknown }[][]) {
  const merged = new Map<string, { pointer: string; before?: unknown; after?: unknown }>();
  for (const change of all.flat()) merged.set(change.pointer, { ...change, before: (merged.get(change.pointer) ?? change).before });
  return [...merged.values()].filter((c) => JSON.stringify(c.before) !== JSON.stringify(c.after));
}
