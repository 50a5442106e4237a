import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { print, printJson, table } from '../output.ts';
import type { Settings } from '../settings.ts';

interface Visit {
  id: string;
  start: string | null;
  time_zone: string;
  length_minutes: number | null;
  status: string;
  kind: string;
  instrument: string | null;
  customer: { name: string } | null;
}

/** The Front desk of the demo, called as its own clerks' program would. */
async function frontDesk<T>(settings: Settings, method: string, path: string, body?: unknown): Promise<T> {
  if (settings.demo === undefined) throw new Error('this is not a demo: start one with npm run demo, and call monsoon from its folder');
  const answer = await fetch(`${settings.demo.frontDesk}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${settings.demo.token}`, 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  }).catch(() => {
    throw new Error(`the Front desk does not answer at ${settings.demo?.frontDesk}; is the demo running?`);
  });
  if (answer.status === 204) return undefined as T;
  const json = (await answer.json()) as T & { error?: string };
  if (!answer.ok) throw new Error(`the Front desk refused: ${json.error ?? answer.status}`);
  return json;
}

const line = (v: Visit) => [v.id, v.customer?.name ?? '', v.kind, v.start ?? '(no date)', v.time_zone, String(v.length_minutes ?? ''), v.status];

/** What a clerk at the Front desk does, for trying Monsoon out. */
export function demoCommands(program: Command): void {
  const demo = program.command('demo').description('play the clerk at the Front desk of the demo');
  demo
    .command('visits')
    .description('the next visits')
    .option('--all', 'every visit')
    .action(
      withContext(program, async ({ settings, json }, options: { all?: boolean }) => {
        const found: Visit[] = [];
        for (let cursor = ''; ; ) {
          const page = await frontDesk<{ items: Visit[]; next: string | null }>(settings, 'GET', `/visits?limit=500${cursor}`);
          found.push(...page.items);
          if (page.next === null) break;
          cursor = `&cursor=${page.next}`;
        }
        const today = new Date().toISOString();
        const shown = found
          .filter((v) => options.all === true || (v.start ?? '') >= today)
          .sort((a, b) => ((a.start ?? '') < (b.start ?? '') ? -1 : 1));
        const items = options.all === true ? shown : shown.slice(0, 12);
        if (json) return printJson(items);
        print(table(['Visit', 'Customer', 'Kind', 'Start', 'Zone', 'Minutes', 'Status'], items.map(line), 'No visits.'));
      }),
    );
  demo
    .command('reschedule <visit> <start>')
    .description('move a visit')
    .addHelpText('after', '\nExample:\n  monsoon demo reschedule V-1042 2026-12-01T09:30')
    .action(
      withContext(program, async ({ settings, json }, id: string, start: string) => {
        const visit = await frontDesk<Visit>(settings, 'PATCH', `/visits/${encodeURIComponent(id)}`, { start });
        if (json) return printJson(visit);
        print(`${visit.id} is at ${visit.start} (${visit.time_zone}) now.`);
      }),
    );
  demo
    .command('change <visit> <field=value...>')
    .description('change fields of a visit')
    .addHelpText('after', '\nExamples:\n  monsoon demo change V-1042 length_minutes=120\n  monsoon demo change V-1042 status=cancelled')
    .action(
      withContext(program, async ({ settings, json }, id: string, pairs: string[]) => {
        const body = Object.fromEntries(
          pairs.map((p) => {
            const at = p.indexOf('=');
            if (at < 1) throw new Error(`"${p}" is not field=value, for example length_minutes=120`);
            const [name, value] = [p.slice(0, at), p.slice(at + 1)];
            return [name, /^(\d+|true|false|null)$/.test(value) ? (JSON.parse(value) as unknown) : value];
          }),
        );
        const visit = await frontDesk<Visit>(settings, 'PATCH', `/visits/${encodeURIComponent(id)}`, body);
        if (json) return printJson(visit);
        print(`Changed ${visit.id}.`);
      }),
    );
  demo
    .command('book <start>')
    .description('make a visit')
    .action(
      withContext(program, async ({ settings, json }, start: string) => {
        const visit = await frontDesk<Visit>(settings, 'POST', '/visits', {
          start,
          customer_id: 'C-1001',
          instrument: 'Alder upright 12',
          kind: 'tuning',
        });
        if (json) return printJson(visit);
        print(`Booked ${visit.id}.`);
      }),
    );
  demo
    .command('delete <visit>')
    .description('delete a visit')
    .action(
      withContext(program, async ({ settings }, id: string) => {
        await frontDesk(settings, 'DELETE', `/visits/${encodeURIComponent(id)}`);
        print(`Deleted ${id}.`);
      }),
    );
}
