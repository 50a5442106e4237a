import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { readYaml, WrongInput } from '../input.ts';
import { exits, paint, print, printJson, state, table } from '../output.ts';

interface SystemFile {
  slug: string;
  name: string;
  kind: string;
  settings: unknown;
  secretsFrom?: Record<string, string>;
}

export function systemCommands(program: Command): void {
  const systems = program.command('systems').description('outside systems: list, connect, check');
  systems
    .command('list', { isDefault: true })
    .description('every connected system')
    .action(
      withContext(program, async ({ client, json }) => {
        const { items } = await client.systems();
        if (json) return printJson(items);
        const rows = items.map((s) => [s.slug, s.name, s.offers.join(', '), s.address, state(s.health.state), s.lanes.join(', ') || '-']);
        print(
          table(
            ['System', 'Name', 'Offers', 'Address', 'Health', 'Lanes'],
            rows,
            'No system is connected. Connect one: monsoon systems connect -f FILE',
          ),
        );
      }),
    );
  systems
    .command('check <system>')
    .description('ask a system, step by step, what it can do')
    .addHelpText('after', '\nExample:\n  monsoon systems check diary')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const { ok, steps } = await client.checkSystem(slug);
        if (json) printJson({ ok, steps });
        else for (const s of steps) print(`${s.outcome === 'failed' ? paint.failed('failed ') : s.outcome.padEnd(7)}  ${s.name}: ${s.detail}`);
        if (!ok) process.exitCode = exits.failed;
      }),
    );
  systems
    .command('connect')
    .description('connect a system told by a file; secrets come from environment variables that the file names')
    .requiredOption('-f, --file <file>', 'YAML with slug, name, kind, settings, and secretsFrom')
    .addHelpText('after', '\nExample:\n  DIARY_PASSWORD=... monsoon systems connect -f demo/systems/diary.yaml')
    .action(
      withContext(program, async ({ client, json }, options: { file: string }) => {
        const { secretsFrom = {}, ...system } = readYaml<SystemFile>(options.file);
        const secrets = Object.fromEntries(Object.entries(secretsFrom).map(([name, variable]) => [name, secretOf(options.file, name, variable)]));
        const made = await client.connect({ ...system, secrets });
        if (json) return printJson(made);
        print(`Connected ${made.name} as ${made.slug}. Next: monsoon systems check ${made.slug}`);
      }),
    );
  systems
    .command('calendars <system>')
    .description('the calendars of a system')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const { items } = await client.calendars(slug);
        if (json) return printJson(items);
        const rows = items.map((c) => [c.name, c.href, c.colour ?? '-', c.writable ? 'yes' : 'no']);
        print(table(['Calendar', 'Address', 'Colour', 'Writing'], rows, 'No calendar there. Make one: monsoon systems make-calendar SYSTEM NAME'));
      }),
    );
  systems
    .command('make-calendar <system> <name>')
    .description('make a calendar')
    .option('--colour <colour>', 'for example #1f6f6b')
    .addHelpText('after', '\nExample:\n  monsoon systems make-calendar diary "Tuning visits" --colour "#1f6f6b"')
    .action(
      withContext(program, async ({ client, json }, slug: string, name: string, options: { colour?: string }) => {
        const made = await client.makeCalendar(slug, name, options.colour ?? null);
        if (json) return printJson(made);
        print(`Made the calendar "${made.name}" at ${made.href}`);
      }),
    );
  systems
    .command('collections <system>')
    .description('the collections of a system with their fields')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const { items } = await client.collections(slug);
        if (json) return printJson(items);
        const rows = items.flatMap((c) =>
          c.fields.map((f, i) => [
            i === 0 ? c.name : '',
            f.name,
            f.label,
            f.unit === undefined ? f.type : `${f.type} in ${f.unit}`,
            f.choices?.join(', ') ?? '',
          ]),
        );
        print(table(['Collection', 'Field', 'Label', 'Type', 'Values'], rows, 'No collections there.'));
      }),
    );
  systems
    .command('disconnect <system>')
    .description('disconnect a system that no lane uses')
    .action(
      withContext(program, async ({ client }, slug: string) => {
        await client.disconnect(slug);
        print(`Disconnected ${slug}.`);
      }),
    );
}

function secretOf(file: string, name: string, variable: string): string {
  const value = process.env[variable];
  if (value === undefined)
    throw new WrongInput(`${file}: the secret "${name}" comes from the environment variable ${variable}, which is not set; set it and repeat`);
  return value;
}
