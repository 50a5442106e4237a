import { basename, extname } from 'node:path';
import { createInterface } from 'node:readline/promises';
import type { PreviewAnswer } from '@monsoon/contract';
import { type MonsoonClient, ServiceProblem } from '@monsoon/contract/client';
import { propertyNames, sayAny, sayProperty } from '@monsoon/core/text';
import { type Command, Option } from 'commander';
import { stringify } from 'yaml';
import { withContext } from '../context.ts';
import { confirm, readYaml, WrongInput } from '../input.ts';
import { exits, isTerminal, paint, print, printAside, printJson, state, table } from '../output.ts';
import { followRun } from '../wait.ts';

/** Arranging lanes: drafts, samples, one item for real, starting and stopping. */
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
      '\nExamples:\n  monsoon lanes draft --records front-desk/visits --calendar "diary/Tuning visits" --starter activities > visits.yaml\n  monsoon lanes draft --records hire-book/leave --starter records-to-address > leave.yaml    (makes a calendar and its feed)',
    )
    .action(
      withContext(program, async ({ client, json }, options: DraftOptions) => {
        const chosen = await askFor(client, options);
        const { definition, reasons } = await client.suggest(chosen);
        if (json) return printJson({ definition, reasons });
        const why = new Map(reasons.map((r) => [r.pointer, r.reason]));
        for (const [pointer, reason] of why) printAside(paint.dim(`${pointer.slice(1)}: ${reason}`));
        print(`# Drafted from what was found; check it with: monsoon lanes check -f FILE\n${stringify(definition, { lineWidth: 120 }).trimEnd()}`);
      }),
    );
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
      new Option('--events <what>', 'keep: stays as it is; remove: removed unless it was edited since; unlink: stays, and is left alone')
        .choices(['keep', 'remove', 'unlink'])
        .makeOptionMandatory(),
    )
    .option('--yes', 'do not ask: for scripts')
    .addHelpText('after', '\nExample:\n  monsoon lanes stop tuning-visits --events keep')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { events: 'keep' | 'remove' | 'unlink'; yes?: boolean }) => {
        const found = await client.foreseeStop(slug, options.events);
        const what = `${found.removed} removed, ${found.unlinked} unlinked, ${found.kept} kept`;
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
    .command('try <lane> <item>')
    .description('one item for real, before the lane is started: a record by its id, an event by its UID, address or title; --undo takes it back')
    .option('--undo', 'take it back again afterwards')
    .addHelpText('after', '\nExamples:\n  monsoon try tuning-visits V-1042\n  monsoon try attendance "Away in Halifax"')
    .action(
      withContext(program, async ({ client, json }, slug: string, given: string, options: { undo?: boolean }) => {
        const { recordId, href } = await client.why(slug, given);
        const alone = recordId === null && href !== null ? href : null;
        const run = await followRun(client, await client.run(slug, alone === null ? { records: [recordId ?? given] } : { hrefs: [alone] }));
        // An event that has its record now goes by that.
        const item = await client.why(slug, alone ?? recordId ?? given);
        if (json) printJson({ run, item });
        else {
          print(`${paint.strong(item.label)}  ${item.recordId ?? item.href ?? ''}  ${state(item.state)}\n${item.why}`);
          printSides(item.record.values, item.event.values);
          if (item.record.url !== null) print(`Record: ${item.record.url}`);
          if (item.event.href !== null) print(`Event:  ${item.event.href}`);
        }
        process.exitCode = run.state === 'done' && run.counts.failed === 0 ? exits.fine : exits.failed;
        if (options.undo === true) {
          const undone = await followRun(client, await client.undo({ run: run.id }));
          if (!json) print(`\nTaken back: ${undone.state}.`);
        } else if (!json && run.counts.created > 0) print(`\nTake it back: monsoon undo ${run.id}`);
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
    printAside(`${question}\n${known.map((k, i) => `  ${i + 1}  ${k}`).join('\n')}`);
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
  const calendar =
    options.calendar === undefined && options.starter === 'records-to-address'
      ? await makeWithFeed(client, records)
      : two(options.calendar ?? (await choose('Which calendar?', '--calendar SYSTEM/CALENDAR', () => all('calendars'))), '--calendar');
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

/** A calendar that Monsoon keeps for these records, and the address at which others read it. */
async function makeWithFeed(client: MonsoonClient, [system, collection]: [string, string]): Promise<[string, string]> {
  const label = (await client.collections(system)).items.find((c) => c.name === collection)?.label ?? collection;
  const taken = new Set((await client.hostedCalendars()).items.map((c) => c.name));
  let name = label;
  for (let n = 2; taken.has(name); n++) name = `${label} ${n}`;
  const made = await client.makeHostedCalendar({ name });
  const feed = await client.makeFeed({ name, system: 'hosted', calendar: made.href, shows: ['title', 'location'] });
  printAside(`Made the calendar "${name}" and its feed, which shows time, title and location:\n  ${feed.address}`);
  return ['hosted', name];
}

function printSides(record: unknown, event: unknown): void {
  const say = (side: unknown, name: string) => sayProperty(name, (side as Record<string, unknown> | null)?.[name]);
  const names = propertyNames.filter((n) => say(record, n) !== '' || say(event, n) !== '');
  print(
    table(
      ['', 'Record', 'Event'],
      names.map((n) => [n, say(record, n), say(event, n)]),
      '',
    ),
  );
}

function printReasons(reasons: NonNullable<PreviewAnswer['records']>['reasons'], none: string): void {
  print(
    table(
      ['Left out because', 'Condition', 'How many', 'For example'],
      reasons.map((r) => [r.reason, r.condition, String(r.count), r.example]),
      none,
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
    printReasons(records.reasons, 'Nothing is left out.');
  }
  if (events !== null) {
    print(
      `\n${events.listed} events in ${events.name}; ${events.crossing} of ${events.read} that were read${events.read > events.listed ? ', each occurrence of a series by itself,' : ''} would become records, ${events.own} are this lane's.`,
    );
    if (events.reasons.length > 0) printReasons(events.reasons, '');
  }
  if (found.series !== null && found.series.count > 0) {
    print(`\n${found.series.count} series, with ${found.series.occurrences} occurrences in the window:`);
    print(
      table(
        ['Series', 'Why it is shown', 'How', 'Occurrences', 'The first of them'],
        found.series.shown.map((s) => [s.label, s.about, s.says, String(s.occurrences), s.first.slice(0, 3).join('; ')]),
        '',
      ),
    );
  }
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
  for (const w of found.warnings) print(paint.held(`\nWarning: ${w}`));
  for (const p of found.problems) print(paint.failed(`${p.pointer}: ${p.reason}`));
}
