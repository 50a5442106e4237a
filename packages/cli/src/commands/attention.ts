import type { SystemAnswer, TodayAnswer } from '@monsoon/contract';
import { sayCounts } from '@monsoon/contract/text';
import { sayItem } from '@monsoon/core/text';
import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { exits, paint, print, printJson, table, time } from '../output.ts';
import { laneTable } from './lanes.ts';

/** `monsoon` alone: what needs attention, and how every lane does. */
export function attentionCommand(program: Command): void {
  program.allowExcessArguments().action(
    withContext(program, async ({ client, json }) => {
      const [unknown] = program.args;
      if (unknown !== undefined)
        program.error(`error: there is no command "${unknown}"; there are ${program.commands.map((c) => c.name()).join(', ')}`, {
          exitCode: exits.usage,
        });
      const today = await client.today();
      if (json) printJson(today);
      else if (today.lanes.length === 0) print(sayNextStep(await client.systems()));
      else show(today);
      if (today.troubles.length > 0 || today.failed.length > 0) process.exitCode = exits.failed;
      else if (today.holds.length > 0 || today.heldRuns.length > 0) process.exitCode = exits.held;
    }),
  );
}

/** An installation without lanes: what comes next. */
function sayNextStep({ items }: { items: SystemAnswer[] }): string {
  const outside = items.filter((s) => s.kind !== 'hosted');
  // A calendar server keeps tasks too, and is not the program that is meant.
  const calendars = outside.some((s) => s.offers.includes('calendars'));
  const records = outside.some((s) => s.offers.includes('records') && !s.offers.includes('calendars'));
  if (records && calendars) return 'Both sides are connected, and there is no lane yet.\nNext: monsoon lanes draft, or New lane in the console.';
  const known = outside.length === 0 ? 'Nothing is connected yet.' : `Connected: ${outside.map((s) => s.name).join(', ')}.`;
  if (records) return `${known} Monsoon keeps calendars itself, or connect yours.\nNext: monsoon lanes draft, or New lane in the console.`;
  return `${known}\nNext: connect the program whose records belong on the calendar.\n  monsoon systems kinds             what can be connected, and what each is asked for\n  monsoon systems connect -f FILE   connects one; the console asks for the same under Systems`;
}

function show(today: TodayAnswer): void {
  if (today.paused !== null)
    print(
      `${paint.failed('Everything is paused')} since ${time(today.paused.at)}, by ${today.paused.by}: ${today.paused.why}. Go on: monsoon resume-everything\n`,
    );
  const nothing = today.troubles.length + today.failed.length + today.holds.length + today.heldRuns.length === 0;
  print(nothing ? 'Nothing needs you.' : paint.strong('Needs you'));
  for (const t of today.troubles) print(`${paint.failed(`${t.noun} ${t.slug}`)}: ${t.detail}`);
  for (const r of today.heldRuns)
    print(
      `${paint.held(`run of ${r.lane} is held`)}: ${r.reason ?? ''}. Look: monsoon forecast ${r.lane}; let it through: monsoon runs release ${r.id}`,
    );
  for (const h of today.holds)
    print(
      `${paint.held(`${h.lane} ${sayItem(h)}`)} ${h.label}: ${h.cause}. Settle: monsoon holds settle ${h.id} ${h.choices.map((c) => `"${c}"`).join('|')}`,
    );
  for (const f of today.failed)
    print(`${paint.failed(`${f.lane} ${sayItem(f)}`)} ${f.label}: ${f.verdict?.value ?? ''} (${f.verdict?.condition ?? ''})`);
  print(`\n${laneTable(today.lanes)}`);
  print(`\n${paint.strong(`Crossed in the last day: ${today.crossedCount}`)}`);
  if (today.crossed.length > 0)
    print(
      table(
        ['When', 'Lane', 'What', 'Title', 'Cause'],
        today.crossed.slice(0, 8).map((c) => [time(c.at), c.lane, c.kind, c.label, c.cause]),
        '',
      ),
    );
  const last = today.lanes
    .map((l) => l.lastRun)
    .filter((r) => r !== null)
    .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0];
  if (last !== undefined) print(paint.dim(`\nLast run: ${last.lane}, ${last.state === 'done' ? sayCounts(last.counts) : last.state}`));
}
