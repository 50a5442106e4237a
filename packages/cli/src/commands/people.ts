import { type ColleagueAnswer, type Role, roles } from '@monsoon/contract';
import { Argument, type Command, Option } from 'commander';
import { withContext } from '../context.ts';
import { confirm, rowCount, WrongInput } from '../input.ts';
import { exits, paint, print, printJson, table, time } from '../output.ts';

interface Change {
  role?: Role;
  name?: string;
  disable?: boolean;
  enable?: boolean;
  unlock?: boolean;
  password?: boolean;
  provider?: true;
}

/** A password is never an argument: those are seen by everybody on the machine. */
const newPassword = (wanted: boolean | undefined): { password?: string } => {
  if (wanted !== true) return {};
  const password = process.env['MONSOON_NEW_PASSWORD'];
  if (password === undefined || password === '') throw new WrongInput('--password: put the password into the variable MONSOON_NEW_PASSWORD');
  return { password };
};

const stateOf = (p: ColleagueAnswer): string =>
  p.disabled ? paint.failed('disabled') : p.lockedUntil !== null ? paint.failed(`locked until ${time(p.lockedUntil)}`) : '';

/** People and what they may, and who did what. */
export function peopleCommands(program: Command): void {
  const people = program.command('people').description('who may sign in, and what they may: list, add, change, remove');
  people.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.people();
      if (json) return printJson(items);
      print(
        table(
          ['Address', 'Name', 'Role', 'Owns', 'Last seen', ''],
          items.map((p) => [p.email, p.name, p.role, p.lanes.join(', '), time(p.lastSeenAt), stateOf(p)]),
          'Nobody.',
        ),
      );
    }),
  );
  people
    .command('add <address>')
    .description('let somebody in: a viewer looks; an operator also runs, pauses and settles, and changes the lanes they own')
    .requiredOption('--name <name>', 'what they are called')
    .addOption(new Option('--role <role>', 'what they may').choices([...roles]).makeOptionMandatory())
    .option('--password', 'with the password in MONSOON_NEW_PASSWORD; without, they sign in through the sign-in service')
    .addHelpText('after', '\nExample:\n  MONSOON_NEW_PASSWORD=... monsoon people add tom@alder-wren.example --name Tom --role operator --password')
    .action(
      withContext(program, async ({ client, json }, email: string, options: { name: string; role: Role; password?: boolean }) => {
        const made = await client.addPerson({ email, name: options.name, role: options.role, ...newPassword(options.password) });
        if (json) return printJson(made);
        print(`${made.email} may sign in now, as ${made.role}.`);
      }),
    );
  people
    .command('change <address>')
    .addOption(new Option('--role <role>', 'what they may').choices([...roles]))
    .option('--name <name>', 'what they are called')
    .option('--disable', 'they are out at once, with their tokens')
    .option('--enable', 'they may sign in again')
    .option('--unlock', 'after too many wrong passwords')
    .option('--password', 'to the one in MONSOON_NEW_PASSWORD; their sessions end')
    .option('--provider', 'they sign in through the sign-in service from now on; their password and sessions end')
    .action(
      withContext(program, async ({ client, json }, email: string, o: Change) => {
        const change = {
          ...(o.role === undefined ? {} : { role: o.role }),
          ...(o.name === undefined ? {} : { name: o.name }),
          ...(o.disable === true ? { disabled: true } : o.enable === true ? { disabled: false } : {}),
          ...(o.unlock === true ? { unlock: true } : {}),
          ...newPassword(o.password),
          ...(o.provider === true ? { provider: true as const } : {}),
        };
        if (Object.keys(change).length === 0)
          throw new WrongInput('nothing to change: give --role, --name, --disable, --enable, --unlock, --password or --provider');
        const changed = await client.changePerson(email, change);
        if (json) return printJson(changed);
        const linked = o.provider === true ? ', signs in through the sign-in service from now on; their password and sessions have ended' : '';
        print(`${changed.email}: ${changed.role}${changed.disabled ? ', disabled' : ''}${linked}.`);
      }),
    );
  people
    .command('remove <address>')
    .option('--yes', 'without asking')
    .action(
      withContext(program, async ({ client }, email: string, options: { yes?: boolean }) => {
        if (options.yes !== true && !(await confirm(`Remove ${email}, with their sessions and tokens?`))) {
          print('Nothing was done: say --yes.');
          process.exitCode = exits.usage;
          return;
        }
        await client.removePerson(email);
        print(`${email} is removed.`);
      }),
    );
  people
    .command('own')
    .description('say who arranges a lane, besides administrators')
    .argument('<lane>')
    .addArgument(new Argument('<address>', 'an address, or "nobody"'))
    .action(
      withContext(program, async ({ client }, lane: string, address: string) => {
        const { owner } = await client.setOwner(lane, address === 'nobody' ? null : address);
        print(owner === null ? `${lane} is arranged by administrators alone.` : `${lane} is arranged by ${owner}, and by administrators.`);
      }),
    );
  program
    .command('activity')
    .description('who did what, newest first')
    .option('--by <address>', 'of one person')
    .option('--lane <lane>', 'to one lane')
    .option('--limit <n>', 'how many', rowCount, 50)
    .action(
      withContext(program, async ({ client, json }, options: { by?: string; lane?: string; limit: number }) => {
        const { items } = await client.activity(options);
        if (json) return printJson(items);
        print(
          table(
            ['When', 'Who', 'By', 'What', 'Of', ''],
            items.map((a) => [
              time(a.at),
              a.by,
              a.via,
              a.what,
              [a.of, a.detail].filter(Boolean).join(': '),
              a.outcome === 'refused' ? paint.failed('refused') : '',
            ]),
            'Nothing was done yet.',
          ),
        );
      }),
    );
}
