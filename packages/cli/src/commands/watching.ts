import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { countSteps } from '@monsoon/contract';
import { sayCounts } from '@monsoon/contract/text';
import { sayItem } from '@monsoon/core/text';
import { type Command, Option } from 'commander';
import { withContext } from '../context.ts';
import { exits, paint, print, printJson, table, time } from '../output.ts';
import { followRun } from '../wait.ts';

interface CountOptions {
  by: 'day' | 'week' | 'month';
  apart?: string;
  from?: string;
  until?: string;
  zone: string;
  system?: string;
  collection?: string;
  calendar?: string;
  date?: string;
  csv?: boolean;
}

const dayFrom = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

/** What failed and why, trying it again, past audits, counts, and the journal as a file. */
export function watchingCommands(program: Command): void {
  program
    .command('failures <lane>')
    .description('what failed, by reason')
    .action(
      withContext(program, async ({ client, json }, lane: string) => {
        const { items } = await client.failures(lane);
        if (json) return printJson(items);
        if (items.length === 0) return print('Nothing failed.');
        for (const g of items) {
          print(`${paint.failed(`${g.count} ${g.reason}`)}: ${g.condition}`);
          for (const i of g.items.slice(0, 10)) print(`    ${sayItem(i)} ${i.label}: ${i.value}`);
          if (g.count > 10) print(`    and ${g.count - 10} more`);
        }
        print(`\nFix them in the source, then: monsoon retry ${lane}`);
        process.exitCode = exits.failed;
      }),
    );
  program
    .command('retry <lane>')
    .description('try again what failed: everything, or what failed for one reason')
    .option('--reason <reason>', 'as "monsoon failures" says it')
    .action(
      withContext(program, async (context, lane: string, options: { reason?: string }) => {
        const run = await followRun(context.client, await context.client.retry(lane, options.reason === undefined ? {} : { reason: options.reason }));
        if (context.json) printJson(run);
        else print(`${run.state}. ${run.reason === null ? '' : `${run.reason}. `}${sayCounts(run.counts)}`);
        process.exitCode = run.state === 'held' ? exits.held : run.state === 'failed' || run.counts.failed > 0 ? exits.failed : exits.fine;
      }),
    );
  program
    .command('audits <lane>')
    .description('past audits: how far both sides were apart, over time')
    .action(
      withContext(program, async ({ client, json }, lane: string) => {
        const { items } = await client.pastAudits(lane);
        if (json) return printJson(items);
        print(
          table(
            ['When', 'Cause', 'In sync', 'Differing', 'Missing', 'Foreign', ''],
            items.map((a) => {
              const c = a.counts as Record<string, number>;
              return [
                time(a.at),
                a.cause,
                String(c['inSync']),
                String(c['differing']),
                String((c['missing'] ?? 0) + (c['missingRecords'] ?? 0)),
                String(c['foreign']),
                a.differences === 0 && a.addsUp ? 'both sides agree' : paint.failed(`${a.differences} differences`),
              ];
            }),
            'No audit yet: monsoon audit LANE makes one.',
          ),
        );
      }),
    );
  program
    .command('counts [lanes]')
    .description('items by day, week or month: of all lanes, of some (commas between them), of a collection, or of a calendar')
    .addOption(new Option('--by <step>', 'how long each step is').choices([...countSteps]).default('week'))
    .option('--apart <property>', 'what is counted apart: lane, status, categories, location..., or a field of the collection')
    .option('--from <day>', 'the first day; four weeks back unless given')
    .option('--until <day>', 'the last day; eight weeks ahead unless given')
    .option('--zone <zone>', 'by whose clock a day begins', Intl.DateTimeFormat().resolvedOptions().timeZone)
    .option('--system <system>', 'with --collection or --calendar')
    .option('--collection <collection>', 'records of a collection instead')
    .option('--date <field>', 'by which of its dated fields')
    .option('--calendar <calendar>', 'events of a calendar instead')
    .option('--csv', 'as CSV')
    .addHelpText(
      'after',
      '\nExamples:\n  monsoon counts tuning-visits --apart status\n  monsoon counts --system hire-book --collection leave --apart site --by month',
    )
    .action(
      withContext(program, async ({ client, json }, lanes: string | undefined, o: CountOptions) => {
        const { by, apart, csv, from, until, ...of } = o;
        const ask = {
          ...of,
          step: by,
          from: from ?? dayFrom(-28),
          until: until ?? dayFrom(56),
          ...(lanes === undefined ? {} : { lane: lanes }),
          ...(apart === undefined ? {} : { by: apart }),
        };
        if (csv === true) return void process.stdout.write(await client.countsCsv(ask));
        const found = await client.counts(ask);
        if (json) return printJson(found);
        const head = ['From', ...found.groups.map((g) => g.name), 'Total'];
        const sum = (i: number) => found.groups.reduce((n, g) => n + (g.counts[i] ?? 0), 0);
        const rows = found.steps.map((step, i) => [step, ...found.groups.map((g) => String(g.counts[i])), String(sum(i))]);
        print(table(head, [...rows, ['in all', ...found.groups.map((g) => String(g.total)), String(found.total)]], ''));
        const { week, weekBefore, month, monthBefore } = found.lately;
        print(
          paint.dim(
            `\nLast 7 days ${week} (${weekBefore} in the 7 before); this month so far ${month} (${monthBefore} by then in the month before).`,
          ),
        );
        if (!found.complete) print(paint.failed('There are more items than were read: choose fewer.'));
      }),
    );
  program
    .command('export-journal')
    .description('every operation, oldest first, as CSV or JSON; without names and contents unless --values')
    .addOption(new Option('--format <format>').choices(['csv', 'json']).default('csv'))
    .option('--lane <lane>')
    .option('--run <run>')
    .option('--since <time>', 'such as 2026-12-01T00:00:00Z')
    .option('--values', 'with names and contents: who reads them must be allowed to')
    .option('-o, --output <file>', 'into a file')
    .action(
      withContext(
        program,
        async ({ client }, o: { format: 'csv' | 'json'; lane?: string; run?: string; since?: string; values?: boolean; output?: string }) => {
          const { output, ...ask } = o;
          const to = output === undefined ? process.stdout : createWriteStream(output, { mode: 0o600 });
          for await (const piece of client.exportJournal(ask)) if (!to.write(piece)) await once(to, 'drain');
          if (output !== undefined) to.end();
        },
      ),
    );
}
