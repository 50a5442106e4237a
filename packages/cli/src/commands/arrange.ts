import { readFileSync } from 'node:fs';
import { basename, extname } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { type MonsoonClient, ServiceProblem } from '@monsoon/client';
import type { LaneFileCheck, PreviewAnswer } from '@monsoon/core';
import { propertyNames, sayAny } from '@monsoon/core/text';
import { type Command, Option } from 'commander';
import { stringify } from 'yaml';
import { withContext } from '../context.ts';
import { readYaml, WrongInput } from '../input.ts';
import { exits, isTerminal, paint, print, printJson, state, table, time } from '../output.ts';
import { followRun } from '../wait.ts';
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
    console.error(paint.failed(`${file}:${p.line ?? 1}:${p.column ?? 1}: ${p.pointer === '' ? '' : `${p.pointer}: `}${p.reason}`));
}

/** Asks on a terminal; elsewhere the option must say it. */
async function confirm(question: string): Promise<boolean> {
  if (!process.stdin.isTTY) return false;
  const asking = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return /^y(es)?$/i.test((await asking.question(`${question} [y/N] `)).trim());
  } finally {
    asking.close();
  }
}

/** Arranging lanes: drafts, samples, lane files, versions, one item for real. */
export function arrangeCommands(program: Command): void {
  const lanes = program.commands.find((c) => c.name() === 'lanes')!;
  lanes
    .command('starters')
    .description('prepared lanes for common needs')
    .action(
      withContext(program, async ({ client, json }) => {
        const { items } = await client.starters();
        if (json) return printJson(items);
        print(
          table(
            ['Starter', '', 'What it is for'],
            items.map((s) => [s.slug, s.direction, `${s.name}. ${s.hint}`]),
            '',
          ),
        );
      }),
    );
  lanes
    .command('draft')
    .description('write a lane file from what is found on two sides; asks for what is not given on a terminal')
    .option('--records <system/collection>', 'the records')
    .option('--calendar <system/calendar>', 'the calendar, by name')
    .addOption(new Option('--direction <way>', 'which way').choices(['->', '<-', '<->']))
    .option('--starter <starter>', 'a prepared lane: monsoon lanes starters')
    .option('--zone <zone>', 'IANA name', Intl.DateTimeFormat().resolvedOptions().timeZone)
    .addHelpText(
      'after',
      '\nExample:\n  monsoon lanes draft --records front-desk/visits --calendar "diary/Tuning visits" --starter activities > visits.yaml',
    )
    .action(
      withContext(program, async ({ client, json }, options: DraftOptions) => {
        const chosen = await askFor(client, options);
        const { definition, reasons } = await client.suggest(chosen);
        if (json) return printJson({ definition, reasons });
        const why = new Map(reasons.map((r) => [r.pointer, r.reason]));
        for (const [pointer, reason] of why) process.stderr.write(`${paint.dim(`${pointer.slice(1)}: ${reason}`)}\n`);
        print(`# Drafted from what was found; check it with: monsoon lanes check -f FILE\n${stringify(definition, { lineWidth: 120 }).trimEnd()}`);
      }),
    );
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
    .command('export <lane> [version]')
    .description('the lane file of a lane, with its comments; of the last version unless said')
    .addHelpText('after', '\nExample:\n  monsoon lanes export tuning-visits > tuning-visits.yaml')
    .action(
      withContext(program, async ({ client, json }, slug: string, version: string | undefined) => {
        const file = await client.laneFile(slug, version === undefined ? undefined : Number(version));
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
    .option('--from <n>', 'a version; the one before the last unless said', Number)
    .option('--to <n>', 'a version; the last unless said', Number)
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
        const between = items.filter((v) => v.version > Math.min(from, to) && v.version <= Math.max(from, to)).reverse();
        const changes = mergeChanges(between.map((v) => v.changes));
        const turned = from > to ? changes.map((c) => ({ ...c, before: c.after, after: c.before })) : changes;
        if (json) return printJson(turned);
        print(changesTable(turned));
      }),
    );
  lanes
    .command('bring-back <lane> <version>')
    .description('save an earlier version as the next one')
    .option('--yes', 'do not ask: for scripts')
    .action(
      withContext(program, async ({ client, json }, slug: string, version: string, options: { yes?: boolean }) => {
        const { text } = await client.laneFile(slug, Number(version));
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
  lanes
    .command('start <lane>')
    .description('start a lane that was made without being started')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const lane = await client.resume(slug);
        if (json) return printJson(lane);
        print(`Started ${slug}: it looks at both sides now. Watch it: monsoon runs --lane ${slug}`);
      }),
    );

  lanes
    .command('stop <lane>')
    .description('stop a lane for good, with what becomes of what it made')
    .addOption(
      new Option('--events <what>', 'keep: stays as it is; remove: taken away where nobody edited it since; part: stays, and is left alone')
        .choices(['keep', 'remove', 'part'])
        .makeOptionMandatory(),
    )
    .option('--yes', 'do not ask: for scripts')
    .addHelpText('after', '\nExample:\n  monsoon lanes stop tuning-visits --events keep')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { events: 'keep' | 'remove' | 'part'; yes?: boolean }) => {
        const found = await client.foreseeStop(slug, options.events);
        const what = `${found.removed} removed, ${found.parted} parted, ${found.kept} kept`;
        if (!json) {
          print(`Stopping ${slug}: ${what}.`);
          for (const i of found.impossible.slice(0, 20)) print(paint.held(`  ${i.recordId ?? i.href} ${i.label} stays: ${i.reason}`));
        }
        if (options.yes !== true && !(await confirm(`\nStop ${slug}?`))) throw new WrongInput(`nothing was done; say --yes to stop ${slug}`);
        const lane = await client.stopLane(slug, options.events);
        if (json) return printJson(lane);
        print(`Stopped ${slug}. Watch the end of it: monsoon runs --lane ${slug}; take the lane itself away: monsoon lanes remove ${slug} --yes`);
      }),
    );

  program
    .command('sample <lane-or-file>')
    .description('real items as they would cross: of a lane, or of a lane file that may be unfinished')
    .option('--record <id...>', 'these records, beside those that are picked')
    .addHelpText('after', '\nExamples:\n  monsoon sample tuning-visits --record V-1042\n  monsoon sample ./new-lane.yaml')
    .action(
      withContext(program, async ({ client, json }, what: string, options: { record?: string[] }) => {
        const isFile = /\.ya?ml$/i.test(what);
        const definition = isFile ? readYaml<object>(what) : (await client.lane(what)).definition;
        const lane = isFile ? basename(what, extname(what)) : what;
        const found = await client.preview({ definition, lane, show: options.record ?? [] });
        if (json) printJson(found);
        else printPreview(found, options.record);
        if (found.problems.length > 0) process.exitCode = exits.failed;
      }),
    );
  program
    .command('try <lane> <record>')
    .description('one record for real, before the lane is started; --undo takes it back')
    .option('--undo', 'take it back again afterwards')
    .addHelpText('after', '\nExample:\n  monsoon try tuning-visits V-1042')
    .action(
      withContext(program, async ({ client, json }, slug: string, record: string, options: { undo?: boolean }) => {
        const run = await followRun(client, await client.run(slug, { records: [record] }));
        const item = await client.item(slug, record);
        if (json) printJson({ run, item });
        else {
          print(`${paint.strong(item.label)}  ${record}  ${state(item.state)}\n${item.why}`);
          printSides(item.record.values, item.event.values);
          if (item.record.url !== null) print(`Record: ${item.record.url}`);
          if (item.event.href !== null) print(`Event:  ${item.event.href}`);
        }
        process.exitCode = run.state === 'done' && run.counts.failed === 0 ? exits.fine : exits.failed;
        if (options.undo === true) {
          const undone = await followRun(client, await client.undo({ run: run.id }));
          if (!json) print(`\nTaken back: ${undone.state}.`);
        } else if (!json && run.counts.made > 0) print(`\nTake it back: monsoon runs undo ${run.id}`);
      }),
    );
}

interface DraftOptions {
  records?: string;
  calendar?: string;
  direction?: string;
  starter?: string;
  zone: string;
}

const two = (text: string, option: string): [string, string] => {
  const at = text.indexOf('/');
  if (at < 1 || at === text.length - 1) throw new WrongInput(`${option}: "${text}" is not SYSTEM/NAME, for example front-desk/visits`);
  return [text.slice(0, at), text.slice(at + 1)];
};

/** What was not given is asked for on a terminal, with what there is to choose from. */
async function askFor(client: MonsoonClient, options: DraftOptions) {
  const choose = async (question: string, option: string, found: () => Promise<string[]>): Promise<string> => {
    const known = await found();
    if (!isTerminal() || !process.stdin.isTTY) throw new WrongInput(`say ${option}; there are ${known.join(', ') || 'none'}`);
    process.stderr.write(`${question}\n${known.map((k, i) => `  ${i + 1}  ${k}`).join('\n')}\n`);
    const asking = createInterface({ input: process.stdin, output: process.stderr });
    try {
      const said = (await asking.question('> ')).trim();
      return known[Number(said) - 1] ?? said;
    } finally {
      asking.close();
    }
  };
  const systems = (await client.systems()).items;
  const all = async (what: 'collections' | 'calendars') =>
    (
      await Promise.all(
        systems.map(async (s) => {
          const found = await client[what](s.slug).catch((error: unknown) => {
            if (error instanceof ServiceProblem) return { items: [] };
            throw error;
          });
          return found.items.map((i) => `${s.slug}/${i.name}`);
        }),
      )
    ).flat();
  const records = two(options.records ?? (await choose('Which records?', '--records SYSTEM/COLLECTION', () => all('collections'))), '--records');
  const calendar = two(options.calendar ?? (await choose('Which calendar?', '--calendar SYSTEM/CALENDAR', () => all('calendars'))), '--calendar');
  const direction =
    options.direction ??
    (options.starter === undefined ? await choose('Which way?', '--direction or --starter', async () => ['->', '<-', '<->']) : undefined);
  return {
    records: { system: records[0], collection: records[1] },
    calendar: { system: calendar[0], calendar: calendar[1] },
    zone: options.zone,
    ...(direction === undefined ? {} : { direction }),
    ...(options.starter === undefined ? {} : { starter: options.starter }),
  };
}

/** Changes of several versions in a row, as one. */
function mergeChanges(all: { pointer: string; before?: unknown; after?: unknown }[][]) {
  const merged = new Map<string, { pointer: string; before?: unknown; after?: unknown }>();
  for (const change of all.flat()) merged.set(change.pointer, { ...change, before: (merged.get(change.pointer) ?? change).before });
  return [...merged.values()].filter((c) => JSON.stringify(c.before) !== JSON.stringify(c.after));
}

function printSides(record: unknown, event: unknown): void {
  const say = (side: unknown, name: string) => sayAny((side as Record<string, unknown> | null)?.[name]);
  const names = propertyNames.filter((n) => say(record, n) !== '' || say(event, n) !== '');
  print(
    table(
      ['', 'Record', 'Event'],
      names.map((n) => [n, say(record, n), say(event, n)]),
      '',
    ),
  );
}

function printPreview(found: PreviewAnswer, wanted: string[] | undefined): void {
  for (const line of found.says) print(line);
  const { records, events } = found;
  if (records !== null) {
    print(
      `\n${records.crossing} of ${records.read} ${records.name} cross${records.complete ? '' : ' (of the first that were read)'}, as ${records.events} events.`,
    );
    print(
      table(
        ['Left out because', 'Condition', 'How many', 'For example'],
        records.reasons.map((r) => [r.reason, r.condition, String(r.count), r.example]),
        'Nothing is left out.',
      ),
    );
  }
  if (events !== null)
    print(
      `\n${events.listed} events in ${events.name}; ${events.crossing} of ${events.read} that were read would become records, ${events.own} are this lane's.`,
    );
  const items = wanted === undefined ? found.items : found.items.filter((i) => wanted.includes(i.recordId));
  for (const item of items) {
    print(`\n${paint.strong(item.label)}  ${item.recordId}  ${paint.dim(`(${item.about})`)}`);
    for (const m of item.moments) {
      if (m.verdict !== null) print(`  ${m.moment}: ${m.verdict.reason}: ${m.verdict.condition}; found ${m.verdict.value}`);
      else
        print(
          table(
            ['', m.moment],
            Object.entries(m.values as Record<string, unknown>).map(([name, value]) => [name, sayAny(value)]),
            '',
          ),
        );
      for (const u of m.unfit) print(paint.failed(`  ${u.property}: ${u.reason}`));
    }
  }
  for (const w of found.warnings) print(paint.held(`\nMind: ${w}`));
  for (const p of found.problems) print(paint.failed(`${p.pointer}: ${p.reason}`));
}
