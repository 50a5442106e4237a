import type { Command } from 'commander';
import { stringify } from 'yaml';
import { withContext } from '../context.ts';
import { readYaml } from '../input.ts';
import { print, printJson, table } from '../output.ts';

/** What systems hold, and what can be put in place there. */
export function systemContentCommands(program: Command, systems: Command): void {
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
    .description('make a calendar, or a task list')
    .option('--colour <colour>', 'for example #1f6f6b')
    .option('--tasks', 'a list for tasks instead of a calendar for events')
    .addHelpText('after', '\nExample:\n  monsoon systems make-calendar diary "Tuning visits" --colour "#1f6f6b"')
    .action(
      withContext(program, async ({ client, json }, slug: string, name: string, options: { colour?: string; tasks?: boolean }) => {
        const made = await client.makeCalendar(slug, name, options.colour ?? null, options.tasks === true ? 'tasks' : 'events');
        if (json) return printJson(made);
        print(`Made the ${options.tasks === true ? 'task list' : 'calendar'} "${made.name}" at ${made.href}`);
      }),
    );
  systems
    .command('change-calendar <system> <calendar>')
    .description('give a calendar another name or colour')
    .option('--name <name>', 'its new name')
    .option('--colour <colour>', 'for example #1f6f6b')
    .addHelpText('after', '\nExample:\n  monsoon systems change-calendar diary Calls --colour "#5f584f"')
    .action(
      withContext(program, async ({ client, json }, slug: string, calendar: string, options: { name?: string; colour?: string }) => {
        const now = await client.changeCalendar(slug, { calendar, ...options });
        if (json) return printJson(now);
        print(`The calendar is called "${now.name}" now, with the colour ${now.colour ?? '(none)'}.`);
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
            i === 0 ? (c.label === c.name ? c.name : `${c.name} (${c.label})`) : '',
            f.name,
            f.label,
            f.unit === undefined ? f.type : `${f.type} in ${f.unit}`,
            f.readOnly === true ? 'no' : 'yes',
            f.choices?.join(', ') ?? '',
          ]),
        );
        print(table(['Collection', 'Field', 'Label', 'Type', 'Writing', 'Values'], rows, 'No collections there.'));
      }),
    );
  systems
    .command('tracking <system> <collection>')
    .description('how a table reports its changes; the statements that would improve it are shown, and carried out only when asked')
    .option('--install', 'install the triggers')
    .option('--remove', 'take them away again')
    .addHelpText('after', '\nExamples:\n  monsoon systems tracking hire-book hires\n  monsoon systems tracking hire-book hires --install')
    .action(
      withContext(program, async ({ client, json }, slug: string, collection: string, options: { install?: boolean; remove?: boolean }) => {
        const asked = options.install === true || options.remove === true;
        const now = asked ? await client.track(slug, collection, options.install === true) : await client.tracking(slug, collection);
        if (json) return printJson(now);
        print(`Changes of ${collection} are detected by ${now.now}.`);
        if (asked || now.state === null) return;
        print(
          now.state === 'installed'
            ? `\nTo take the triggers away (or: --remove):\n\n${now.uninstall}`
            : `\nTo be notified of them at once (or: --install):\n\n${now.install}`,
        );
      }),
    );
  systems
    .command('draft-descriptor')
    .description('a first descriptor from an OpenAPI 3 document, to be looked through')
    .requiredOption('-f, --file <file>', 'the document, in YAML or JSON')
    .addHelpText('after', '\nExample:\n  monsoon systems draft-descriptor -f openapi.json > desk.yaml')
    .action(
      withContext(program, async ({ client, json }, options: { file: string }) => {
        const draft = await client.draftDescriptor(readYaml(options.file));
        if (json) return printJson(draft);
        print(`${draft.notes.map((n) => `# ${n}\n`).join('')}descriptor:\n${stringify(draft.descriptor).replace(/^/gm, '  ').trimEnd()}`);
      }),
    );
  systems
    .command('descriptor-schema')
    .description('a JSON Schema of descriptors, for editors')
    .action(withContext(program, async ({ client }) => printJson(await client.descriptorSchema())));
  systems
    .command('try-mail <system> <address>')
    .description('send a mail for trying')
    .action(
      withContext(program, async ({ client }, slug: string, to: string) => {
        await client.tryMail(slug, to);
        print(`A mail to ${to} was handed over.`);
      }),
    );
}
