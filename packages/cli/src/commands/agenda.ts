import type { AgendaItem } from '@monsoon/contract';
import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { WrongInput } from '../input.ts';
import { exits, paint, print, printAside, printJson, table } from '../output.ts';

interface Options {
  lane?: string[];
  system?: string;
  calendar?: string;
  from?: string;
  days: string;
  zone: string;
  forecast?: boolean;
}

const DAY = 86_400_000;
const weekdays = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];

/** The same as the console's calendar, for a terminal: records left, calendar right. */
export function agendaCommand(program: Command): void {
  program
    .command('agenda')
    .description('what stands where: records left, calendar right, and how far they are apart')
    .option('--lane <lane...>', 'of these lanes; of all unless said')
    .option('--system <system>', 'instead: of a calendar of this system')
    .option('--calendar <calendar>', 'its name or address')
    .option('--from <day>', 'the first day; today unless said')
    .option('--days <n>', 'how many', '7')
    .option('--zone <zone>', 'times in this zone', Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC')
    .option('--forecast', 'of one lane: where a run would put everything')
    .addHelpText(
      'after',
      '\nExamples:\n  monsoon agenda --lane tuning-visits --days 3\n  monsoon agenda --lane tuning-visits --forecast\n  monsoon agenda --system hosted --calendar "Closed days" --days 60',
    )
    .action(
      withContext(program, async ({ client, json }, options: Options) => {
        const from = options.from ?? new Date().toISOString().slice(0, 10);
        if (!/^\d{4}-\d\d-\d\d$/.test(from)) throw new WrongInput(`--from: "${from}" is not a day such as 2026-12-01`);
        if (!/^[1-9]\d?$/.test(options.days) || Number(options.days) > 62)
          throw new WrongInput(`--days: "${options.days}" is not a number from 1 to 62`);
        const until = new Date(Date.parse(from) + (Number(options.days) - 1) * DAY).toISOString().slice(0, 10);
        const { lane, system, calendar } = options;
        const found = await client.agenda({
          from,
          until,
          zone: options.zone,
          ...(lane === undefined ? {} : { lane: lane.join(',') }),
          ...(system === undefined ? {} : { system }),
          ...(calendar === undefined ? {} : { calendar }),
          ...(options.forecast === true ? { forecast: true } : {}),
        });
        if (json) return printJson(found);
        let shown = 0;
        for (const day of found.days) {
          const items = found.items.filter((i) =>
            [i.record, i.event].some((b) => b !== null && b.from < day.until && Math.max(b.until, b.from + 1) > day.from),
          );
          if (items.length === 0) continue;
          shown += items.length;
          const hours = day.hours.length === 24 ? '' : paint.dim(`  ${day.hours.length} hours: clocks change`);
          print(`${shown > items.length ? '\n' : ''}${paint.strong(`${weekdays[new Date(`${day.day}T12:00:00Z`).getUTCDay()]} ${day.day}`)}${hours}`);
          print(
            table(
              ['Record', '', 'Event', 'What', 'State'],
              items.map((i) => [i.record?.says ?? '', sign(i), i.event?.says ?? '', `${i.label}${i.repeating ? ' (repeats)' : ''}`, stateOf(i)]),
              '',
            ),
          );
        }
        if (shown === 0) print(`Nothing lies between ${from} and ${until}.`);
        if (!found.complete) printAside('There are more items than are listed: choose fewer lanes or days.');
        if (found.items.some((i) => i.state === 'held')) process.exitCode = exits.held;
      }),
    );
}

/** Level, apart, or on one bank only. */
function sign({ record, event, lane }: AgendaItem): string {
  if (record === null) return lane === null ? '' : ' <|';
  if (event === null) return '|> ';
  return record.from === event.from && record.until === event.until ? '---' : '-/-';
}

function stateOf(item: AgendaItem): string {
  const words = item.why === null || item.state === 'in sync' ? item.state : `${item.state}: ${item.why}`;
  return item.state === 'held' ? paint.held(words) : item.state === 'failed' ? paint.failed(words) : words;
}
