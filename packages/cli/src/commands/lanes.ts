import type { AuditAnswer, ForecastAnswer, ItemDetail, LaneLine } from '@monsoon/contract';
import type { ServiceProblem } from '@monsoon/contract/client';
import { type ItemOrder, itemOrders, sayCounts } from '@monsoon/contract/text';
import type { FieldValue } from '@monsoon/core';
import { propertyNames } from '@monsoon/core';
import { sayAny, sayItem, sayValue } from '@monsoon/core/text';
import { type Command, Option } from 'commander';
import { withContext } from '../context.ts';
import { readYaml, rowCount, WrongInput } from '../input.ts';
import { changeLines, exits, paint, print, printJson, state, table, time, when } from '../output.ts';
import { followRun } from '../wait.ts';
import { printOperations } from './runs.ts';

interface ItemOptions {
  search?: string;
  state?: string;
  order: ItemOrder;
  descending?: boolean;
  limit: number;
}

export function laneCommands(program: Command): void {
  const lanes = program.command('lanes').description('lanes: draft, check, apply, export, compare, start, pause, remove');
  lanes
    .command('list', { isDefault: true })
    .description('every lane with its numbers')
    .action(
      withContext(program, async ({ client, json }) => {
        const { items } = await client.lanes();
        if (json) return printJson(items);
        print(laneTable(items));
      }),
    );
  lanes
    .command('show <lane>')
    .description('one lane with its settings')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const lane = await client.lane(slug);
        if (json) return printJson(lane);
        print(laneTable([lane]));
        if (lane.trouble !== null) print(paint.failed(`\n${lane.trouble}`));
        print(`\nVersion ${lane.version}:\n${JSON.stringify(lane.definition, null, 2)}`);
      }),
    );
  for (const [verb, words] of [
    ['pause', 'Paused. It keeps what it knows; resume it with: monsoon lanes resume'],
    ['resume', 'Resumed. It looks at both sides now:'],
  ] as const) {
    lanes
      .command(`${verb} <lane>`)
      .description(`${verb} a lane`)
      .action(
        withContext(program, async ({ client, json }, slug: string) => {
          const lane = await client[verb](slug);
          if (json) return printJson(lane);
          print(`${words} ${slug}`);
        }),
      );
  }
  lanes
    .command('remove <lane>')
    .description('remove a lane with its history; what it made stays, and another lane may take it over')
    .option('--yes', 'do it')
    .addHelpText('after', '\nExample:\n  monsoon lanes remove calls --yes')
    .action(
      withContext(program, async ({ client }, slug: string, options: { yes?: true }) => {
        const { pairs } = await client.lane(slug);
        if (options.yes !== true)
          throw new WrongInput(
            `this would remove the lane ${slug} with its ${pairs} pairs, its runs and its journal, which nothing brings back; both sides stay as they are. Say --yes to do it, or stop it instead: monsoon lanes stop ${slug}`,
          );
        await client.removeLane(slug);
        print(`Removed the lane ${slug}. Both sides stay as they are; a lane that is arranged again takes them over.`);
      }),
    );

  program
    .command('forecast <lane>')
    .description('what a run would do now, item by item, without doing it; with a lane file, what it would do if the lane were so')
    .option('-f, --file <file>', 'a lane file: the lane as it would be')
    .option('--each', 'every occurrence of a series by itself')
    .addHelpText(
      'after',
      '\nExamples:\n  monsoon forecast tuning-visits\n  monsoon forecast tuning-visits -f tuning-visits.yaml\n  monsoon forecast tuning-visits --json',
    )
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { file?: string; each?: boolean }) => {
        const forecast = await client.forecast(slug, options.file === undefined ? undefined : readYaml(options.file));
        if (json) printJson(forecast);
        else printForecast(slug, forecast, options.each);
        if (forecast.guard.length > 0) process.exitCode = exits.held;
      }),
    );
  program
    .command('audit <lane>')
    .description('read both sides whole and compare them')
    .addHelpText('after', '\nExample:\n  monsoon audit tuning-visits')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const result = await client.audit(slug);
        if (json) printJson(result);
        else printAudit(slug, result);
        if (result.differences.length > 0 || !result.addsUp) process.exitCode = exits.failed;
      }),
    );
  program
    .command('run <lane>')
    .description('run a lane now and wait for its end')
    .option('--sweep', 'read both sides whole')
    .option('--record <id...>', 'only these records')
    .option('--event <href...>', 'only the events at these addresses, where they have no record')
    .addHelpText('after', '\nExamples:\n  monsoon run tuning-visits\n  monsoon run tuning-visits --record V-1042')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { sweep?: boolean; record?: string[]; event?: string[] }) => {
        const asked = await client.run(slug, {
          ...(options.sweep ? { sweep: true } : {}),
          ...(options.record === undefined ? {} : { records: options.record }),
          ...(options.event === undefined ? {} : { hrefs: options.event }),
        });
        const run = await followRun(client, asked);
        const paused = !json && (await client.lane(slug)).state === 'paused';
        if (json) printJson(run);
        else {
          const wrote = run.counts.created + run.counts.changed + run.counts.removed;
          print(
            `${run.laneName}: ${state(run.state)}${run.reason === null ? '' : `: ${run.reason}`}. ${sayCounts(run.counts)}.${run.state === 'done' && wrote === 0 ? ' Nothing was written.' : ''}`,
          );
          if (paused)
            print(paint.held(`${slug} is paused: it ran because you asked, and does nothing by itself until: monsoon lanes resume ${slug}`));
          if (run.state === 'held') print(`Let it through after looking at it: monsoon forecast ${slug}, then: monsoon runs release ${run.id}`);
        }
        process.exitCode =
          run.state === 'done' ? (run.counts.failed > 0 ? exits.failed : exits.fine) : run.state === 'held' ? exits.held : exits.failed;
      }),
    );
  program
    .command('items <lane>')
    .description('items of a lane: pairs, and what does not cross')
    .option('--search <words>', 'words of the title, a record id or a UID')
    .option('--state <state>', 'in sync, held, left out, failed, creating, unconfirmed, unlinked')
    .addOption(new Option('--order <by>', 'the order of the list').choices([...itemOrders]).default('time'))
    .option('--descending', 'in reverse order')
    .option('--limit <n>', 'at most so many', rowCount, 100)
    .action(
      withContext(program, async ({ client, json }, slug: string, options: ItemOptions) => {
        const page = await client.items(slug, options);
        if (json) return printJson(page);
        const rows = page.items.map((i) => [
          sayItem(i),
          i.label,
          state(i.state),
          i.verdict === null
            ? [when(i.when), i.repeats ?? []].flat().join(', ')
            : `${i.verdict.reason}: ${i.verdict.condition}; found ${i.verdict.value}`,
          time(i.updatedAt),
        ]);
        print(table(['Record', 'Title', 'State', 'When, or why not', 'Since'], rows, 'No items.'));
        if (page.next !== null) print(paint.dim(`There are more: --limit up to 500, or --search.`));
      }),
    );
  program
    .command('why <lane> <item>')
    .description('why a record or event is as it is: by id, UID, address or words of its title')
    .addHelpText('after', '\nExamples:\n  monsoon why tuning-visits V-1042\n  monsoon why tuning-visits "Marsh"')
    .action(
      withContext(program, async ({ client, json }, slug: string, item: string) => {
        const detail = await client.why(slug, item);
        if (json) printJson(detail);
        else printItem(detail, slug);
        if (detail.hold !== null) process.exitCode = exits.held;
      }),
    );
  followCommand(program);
}

function followCommand(program: Command): void {
  program
    .command('follow <lane> <item>')
    .description('follow an item again that the lane no longer follows: a record by its id, an event by its UID, address or title')
    .addHelpText('after', '\nExample:\n  monsoon follow tuning-visits V-1042')
    .action(
      withContext(program, async ({ client, json }, slug: string, given: string) => {
        const { recordId, href } = await client.why(slug, given);
        const run = await followRun(client, await client.follow(slug, recordId ?? href ?? given));
        if (json) return printJson(run);
        print(`${run.laneName}: ${state(run.state)}${run.reason === null ? '' : `: ${run.reason}`}. ${sayCounts(run.counts)}.`);
        process.exitCode = run.state === 'done' ? exits.fine : exits.failed;
      }),
    );
}

export function laneTable(lanes: LaneLine[]): string {
  const rows = lanes.map((l) => [
    l.slug,
    l.recordsName,
    l.definition.direction,
    l.calendarName,
    String(l.pairs),
    String(l.leftOut),
    l.failed > 0 ? paint.failed(String(l.failed)) : '0',
    l.holds > 0 ? paint.held(String(l.holds)) : '0',
    l.failures > 0 ? paint.failed('in trouble') : state(l.lastRun?.state === 'held' ? 'held' : l.state),
    time(l.lastRunAt),
    time(l.nextRunAt),
    l.delay === null ? '-' : `${l.delay.median} s / ${l.delay.most} s`,
  ]);
  return table(
    ['Lane', 'Records', '', 'Calendar', 'Pairs', 'Left out', 'Failed', 'Holds', 'State', 'Last', 'Next', 'Delay, median / 95 %'],
    rows,
    'No lane yet. Make one: monsoon lanes apply -f FILE',
  );
}

function printAudit(slug: string, { counts: c, differences, addsUp }: AuditAnswer): void {
  const rows = [
    ['in sync', c.inSync, c.inSync],
    ['differing', c.differing, c.differing],
    ['missing on the calendar', c.missing, ''],
    ['without a record', '', c.missingRecords],
    ['left out', c.leftOut, ''],
    ['their record has left', '', c.extra],
    ['foreign', '', c.foreign],
    ['in all', c.moments, c.events],
  ];
  print(
    table(
      ['', 'Records', 'Calendar'],
      rows.map((r) => r.map(String)),
      '',
    ),
  );
  for (const d of differences) {
    print(
      `\n${paint.strong(sayItem(d))}  ${d.label}  ${paint.dim(`(${d.cause}${d.fix === 'hold' || d.fix === null ? '' : `; a run would ${d.fix}`})`)}`,
    );
    for (const line of changeLines(d.changes)) print(line);
  }
  const held = differences.filter((d) => d.fix === 'hold' || d.fix === null).length;
  if (differences.length > held) print(`\n${differences.length - held} that a run would settle: monsoon run ${slug} --sweep`);
  if (held > 0) print(paint.held(`\n${held} to settle: monsoon holds --lane ${slug}`));
  if (differences.length === 0) print('\nBoth sides agree.');
  if (!addsUp)
    print(
      paint.failed('The counts of the calendar do not add up: somebody changes it at this moment, or the server lists it wrongly. Repeat the audit.'),
    );
}

export function printForecast(slug: string, forecast: ForecastAnswer, each = false): void {
  print(`A run of ${slug} now: ${sayCounts(forecast.counts)}.`);
  printOperations(forecast.operations, each);
  if (forecast.verdicts.length > 0) {
    print(`\n${paint.strong('Would not cross:')}`);
    print(
      table(
        ['Record', 'Title', 'Reason', 'Condition', 'Found'],
        forecast.verdicts.map((v) => [sayItem(v), v.label, v.reason, v.condition, v.value]),
        '',
      ),
    );
  }
  for (const warning of forecast.warnings) print(paint.held(`\nWarning: ${warning}`));
  for (const reason of forecast.guard) print(paint.held(`\nThe guard would hold this run: ${reason}`));
}

function printItem(item: ItemDetail, slug: string): void {
  print(`${paint.strong(item.label)}  ${item.recordId ?? item.href ?? ''}  ${state(item.state)}`);
  print(item.why);
  print(`Next: ${item.next}`);
  if (item.state === 'unlinked') print(`Follow it again: monsoon follow ${slug} ${JSON.stringify(item.recordId ?? item.href)}`);
  if (item.series !== null) {
    const { says, occurrence, others, overrides } = item.series;
    print(`\n${occurrence === null ? 'A series' : `The occurrence of ${occurrence} of a series`}: ${says}`);
    if (overrides.length > 0) print(`Edited by themselves, and left as they are: ${overrides.join('; ')}`);
    if (others.length > 0)
      print(
        table(
          ['Others of it', 'Record'],
          others.map((o) => [o.when || o.label, o.item]),
          '',
        ),
      );
  }
  if (item.moments.length > 0)
    print(
      `\n${table(
        ['Moment', 'When', 'State', 'Why not'],
        item.moments.map((m) => [m.moment, when(m.when), state(m.state), m.why]),
        '',
      )}`,
    );
  const sides = [item.record.values, item.baseline?.record, item.event.values];
  const say = (values: object | null | undefined, name: string) => {
    const value = (values as Record<string, unknown> | null | undefined)?.[name];
    return sayAny(value);
  };
  const names = propertyNames.filter((name) => sides.some((side) => say(side, name) !== ''));
  if (names.length > 0)
    print(
      `\n${table(
        ['', 'Record', 'Baseline', 'Event'],
        names.map((n) => [n, say(item.record.values, n), say(item.baseline?.record, n), say(item.event.values, n)]),
        '',
      )}`,
    );
  else if (item.record.fields !== null) {
    const fields = Object.entries(item.record.fields as Record<string, FieldValue>);
    print(
      `\n${table(
        ['Field', 'Record', 'Event'],
        fields.map(([name, value]) => [name, sayValue(value), '']),
        '',
      )}`,
    );
  }
  for (const side of [item.record, item.event]) if (side.trouble !== null) print(paint.failed(side.trouble));
  if (item.history.length > 0)
    print(
      `\n${table(
        ['When', 'What', 'Cause', 'Changes'],
        item.history.map((h) => [time(h.at), h.kind, h.cause, changeLines(h.changes, '').join('; ')]),
        '',
      )}`,
    );
}

/** The findings of a refused input, one a line. */
export const findings = (error: ServiceProblem): string[] => error.problems.map((p) => `  ${p.pointer || '/'}: ${p.reason}`);
