import { fromNowOn } from '@monsoon/arranging/text';
import type { ForecastAnswer, HoldAnswer, UndoAnswer } from '@monsoon/contract';
import type { MonsoonClient } from '@monsoon/contract/client';
import { foldSeries, sayCounts, sayFolded } from '@monsoon/contract/text';
import { sayItem } from '@monsoon/core/text';
import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { confirm, rowCount } from '../input.ts';
import { changeLines, exits, paint, print, printJson, state, table, time } from '../output.ts';
import { followRun } from '../wait.ts';

export function runCommands(program: Command): void {
  const runs = program.command('runs').description('runs: list, show, let a held one through');
  runs
    .command('list', { isDefault: true })
    .description('runs, newest first')
    .option('--lane <lane>', 'of this lane only')
    .option('--limit <n>', 'at most so many', rowCount, 20)
    .action(
      withContext(program, async ({ client, json }, options: { lane?: string; limit: number }) => {
        const page = await client.runs(options);
        if (json) return printJson(page);
        print(
          table(
            ['Run', 'Lane', 'Began', 'Cause', 'Scope', 'State', 'What'],
            page.items.map((r) => [
              r.id,
              r.lane,
              time(r.startedAt ?? r.createdAt),
              r.cause,
              r.scope,
              state(r.state),
              r.state === 'failed' || r.state === 'held' ? (r.reason ?? '') : sayCounts(r.counts),
            ]),
            'No runs yet.',
          ),
        );
      }),
    );
  runs
    .command('show <run>')
    .description('a run and everything it did')
    .option('--each', 'every occurrence of a series by itself')
    .action(
      withContext(program, async ({ client, json }, id: string, options: { each?: boolean }) => {
        const [run, journal] = await Promise.all([client.oneRun(id), client.journal({ run: id, limit: 500 })]);
        if (json) return printJson({ ...run, journal: journal.items });
        print(
          `${run.laneName}: ${state(run.state)}${run.reason === null ? '' : `: ${run.reason}`}. ${sayCounts(run.counts)}. ${time(run.startedAt)} to ${time(run.endedAt)}.`,
        );
        for (const folded of options.each === true ? journal.items.map((line) => ({ of: 'line' as const, line })) : foldSeries(journal.items)) {
          if (folded.of === 'series') {
            const [first] = folded.lines;
            print(
              `\n${paint.strong(first!.kind)}  ${first!.label}  ${sayFolded(folded.lines)}  ${paint.dim(`(${first!.cause}; one by one with --each)`)}`,
            );
            continue;
          }
          const entry = folded.line;
          print(`\n${paint.strong(entry.kind)}  ${sayItem(entry)}  ${entry.label}  ${paint.dim(`(${entry.cause}; entry ${entry.id})`)}`);
          for (const line of [...changeLines(entry.changes), ...entry.notes.map((n) => `    note: ${n}`)]) print(line);
        }
      }),
    );
  runs
    .command('release <run>')
    .description('let a held run through: it may remove and rewrite as much as it said, and no more')
    .action(
      withContext(program, async ({ client, json }, id: string) => {
        const run = await followRun(client, await client.release(id));
        if (json) printJson(run);
        else print(`${run.laneName}: ${state(run.state)}${run.reason === null ? '' : `: ${run.reason}`}. ${sayCounts(run.counts)}.`);
        process.exitCode = run.state === 'done' ? exits.fine : run.state === 'held' ? exits.held : exits.failed;
      }),
    );
  program
    .command('undo <run-or-entry>')
    .description('take back what a run did, or one entry of the journal, unless it was edited since')
    .option('--forecast', 'only show what it would do')
    .addHelpText('after', '\nExamples:\n  monsoon undo 0f9d3c1e-7a52-4a8e-9a3b-5f1f6f0f3c11 --forecast\n  monsoon undo 812')
    .action(
      withContext(program, async ({ client, json }, given: string, options: { forecast?: boolean }) => {
        const of = /^\d+$/.test(given) ? { entry: Number(given) } : { run: given };
        if (options.forecast) {
          const plan = await client.foreseeUndo(of);
          if (json) printJson(plan);
          else printUndo(plan);
          return;
        }
        const run = await followRun(client, await client.undo(of));
        if (json) printJson(run);
        else print(`${run.laneName}: ${state(run.state)}${run.reason === null ? '' : `: ${run.reason}`}. ${sayCounts(run.counts)}.`);
        process.exitCode = run.state === 'done' ? exits.fine : exits.failed;
      }),
    );
  program
    .command('journal')
    .description('what was done, newest first')
    .option('--lane <lane>', 'of this lane only')
    .option('--record <id>', 'of this record only')
    .option('--limit <n>', 'at most so many', rowCount, 30)
    .addHelpText('after', '\nExample:\n  monsoon journal --lane tuning-visits --record V-1042')
    .action(
      withContext(program, async ({ client, json }, options: { lane?: string; record?: string; limit: number }) => {
        const page = await client.journal(options);
        if (json) return printJson(page);
        print(
          table(
            ['Entry', 'When', 'Lane', 'Record', 'Title', 'What', 'Cause', 'Changes'],
            page.items.map((e) => [String(e.id), time(e.at), e.lane, sayItem(e), e.label, e.kind, e.cause, changeLines(e.changes, '').join('; ')]),
            'Nothing was done yet.',
          ),
        );
      }),
    );
  const holds = program.command('holds').description('what waits for a person: list, settle');
  holds
    .command('list', { isDefault: true })
    .option('--lane <lane>', 'of this lane only')
    .action(
      withContext(program, async ({ client, json }, options: { lane?: string }) => {
        const { items } = await client.holds(options.lane);
        const runs = (await client.today()).heldRuns.filter((r) => options.lane === undefined || r.lane === options.lane);
        if (json) printJson(items);
        else {
          for (const r of runs)
            print(
              `${paint.held(`The guard holds a run of ${r.lane}`)}: ${r.reason ?? ''}. Look: monsoon forecast ${r.lane}; let it through: monsoon runs release ${r.id}\n`,
            );
          print(
            table(
              ['Hold', 'Lane', 'Record', 'Title', 'Question', 'Because', 'Answers'],
              items.map((h) => [h.id, h.lane, sayItem(h), h.label, paint.held(h.question), h.cause, h.choices.join(', ')]),
              runs.length === 0 ? 'Nothing is held.' : 'Nothing else is held.',
            ),
          );
        }
        if (items.length + runs.length > 0) process.exitCode = exits.held;
      }),
    );
  holds
    .command('settle-all <question> <choice>')
    .description('settle all holds that ask the same question, alike')
    .option('--lane <lane>', 'of this lane only')
    .addHelpText('after', '\nExample:\n  monsoon holds settle-all conflict "records win" --lane tuning-visits')
    .action(
      withContext(program, async ({ client, json }, question: string, choice: string, options: { lane?: string }) => {
        const done = await client.settleAll(question, choice, options.lane);
        if (json) return printJson(done);
        print(`Settled ${done.settled}${done.skipped === 0 ? '' : `; ${done.skipped} do not have that answer and stay open`}.`);
      }),
    );
  holds
    .command('settle <hold> <choice>')
    .description('settle a hold; the lane carries it out at once')
    .option('--from-now-on', 'and make the answer a rule of the lane, after showing what that would do')
    .option('--yes', 'with --from-now-on: without asking')
    .action(
      withContext(program, async ({ client, json }, id: string, choice: string, options: { fromNowOn?: boolean; yes?: boolean }) => {
        const hold = await client.settle(id, choice);
        if (json) return printJson(hold);
        print(`Settled: ${hold.label}, ${hold.question}: ${choice}.`);
        if (options.fromNowOn === true) await makeRule(client, hold, choice, options.yes === true);
      }),
    );
}

/** Shows what the lane would do with the answer as its rule, and saves it so when somebody says yes. */
async function makeRule(client: MonsoonClient, hold: HoldAnswer, choice: string, yes: boolean): Promise<void> {
  const lane = await client.lane(hold.lane);
  const ruled = fromNowOn(lane.definition, hold.question, choice, Object.keys(hold.record));
  if (ruled === null) return print('That answer is for this item alone: it can be no rule.');
  const { counts } = await client.forecast(hold.lane, ruled);
  print(`With that rule a run of ${hold.lane} would do this now: ${sayCounts(counts)}.`);
  if (!yes && !(await confirm(`Answer "${hold.question}" with "${choice}" from now on?`))) return print('No rule was made: say --yes.');
  const { version } = await client.changeLane(hold.lane, lane.version, ruled);
  print(`A rule of ${hold.lane} from now on, in version ${version}.`);
}

function printUndo({ operations, impossible }: UndoAnswer): void {
  print(operations.length === 0 ? 'Nothing can be taken back.' : `It would take back ${operations.length}:`);
  printOperations(operations);
  if (impossible.length > 0) print(`\n${paint.strong('Cannot be taken back:')}`);
  for (const i of impossible) print(`  ${sayItem(i)}  ${i.label}: ${i.reason}`);
}

/** What would be done, field by field. */
export function printOperations(operations: ForecastAnswer['operations'], each = false): void {
  for (const folded of each ? operations.map((line) => ({ of: 'line' as const, line })) : foldSeries(operations)) {
    if (folded.of === 'series') {
      const [first] = folded.lines;
      print(`\n${paint.strong(first!.kind)}  ${first!.label}  ${sayFolded(folded.lines)}  ${paint.dim(`(${first!.cause})`)}`);
      for (const line of changeLines(first!.changes)) print(line);
      print('    and so for each; one by one with --each');
      continue;
    }
    const o = folded.line;
    print(`\n${paint.strong(o.kind)}  ${sayItem(o)}  ${o.label}  ${paint.dim(`(${o.cause})`)}`);
    for (const line of changeLines(o.changes)) print(line);
    for (const note of o.notes) print(`    note: ${note}`);
    for (const notice of o.notices) print(`    ${paint.held(sayNotice(notice))}`);
  }
}

/** Who is written to, and why. */
const sayNotice = ({ method, name, email, why }: ForecastAnswer['operations'][number]['notices'][number]): string =>
  `mail: ${method === 'CANCEL' ? 'cancellation' : 'invitation or update'} to ${name === null ? email : `${name} <${email}>`} (${why})`;
