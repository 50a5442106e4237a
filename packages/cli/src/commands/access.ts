import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { type MeAnswer, scopes, type TokenScope } from '@monsoon/contract';
import { MonsoonClient, ServiceProblem } from '@monsoon/contract/client';
import { type Command, Option } from 'commander';
import { makeContext, withContext } from '../context.ts';
import { WrongInput } from '../input.ts';
import { print, printJson, table, time } from '../output.ts';
import { writeSettings } from '../settings.ts';

export function accessCommands(program: Command): void {
  program
    .command('sign-in')
    .description('get a token for this machine and keep it in ~/.monsoon/cli.json')
    .requiredOption('--email <address>', 'who you are')
    .option('--read-only', 'a token that may only read')
    .addHelpText(
      'after',
      '\nThe password is asked for, or taken from MONSOON_PASSWORD.\n\nExample:\n  monsoon --url http://127.0.0.1:4700 sign-in --email ines@alder-wren.example',
    )
    .action(async (options: { email: string; readOnly?: boolean }) => {
      const { settings } = makeContext(program);
      const password = await secret('MONSOON_PASSWORD', 'Password: ');
      await asBrowser(settings.address, options.email, password, async (client, me) => {
        if (me.mustChangePassword) {
          print('Somebody else chose this password: choose one of your own, of at least 12 characters.');
          await client.changePassword(password, await secret('MONSOON_NEW_PASSWORD', 'New password: '));
        }
        const { token } = await client.makeToken('command line', options.readOnly === true ? 'read' : 'write');
        print(`Signed in as ${me.email}. The token is in ${writeSettings({ address: settings.address, token })}`);
      });
    });
  program
    .command('change-password')
    .description('change your own password; your signed-in browsers are signed out')
    .option('--end-devices', 'end the passwords of your devices, too')
    .addHelpText(
      'after',
      '\nBoth passwords are asked for, or taken from MONSOON_PASSWORD and MONSOON_NEW_PASSWORD.\n\nExamples:\n  monsoon change-password\n  monsoon change-password --end-devices',
    )
    .action(
      withContext(program, async ({ client, settings }, options: { endDevices?: boolean }) => {
        const { email } = await client.me();
        const current = await secret('MONSOON_PASSWORD', 'Current password: ');
        const next = await secret('MONSOON_NEW_PASSWORD', 'New password: ');
        await asBrowser(settings.address, email, current, (browser) => browser.changePassword(current, next, options.endDevices));
        print(`The password of ${email} is changed${options.endDevices === true ? '; the passwords of your devices are ended' : ''}.`);
      }),
    );
  const tokens = program.command('tokens').description('tokens for programs: list, make, withdraw');
  tokens.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.tokens();
      if (json) return printJson(items);
      print(
        table(
          ['Token', 'Name', 'Of', 'May', 'Made', 'Ends', 'Last used'],
          items.map((t) => [t.id, t.name, t.email, t.may, time(t.createdAt), time(t.expiresAt), time(t.lastUsedAt)]),
          'No tokens.',
        ),
      );
    }),
  );
  tokens
    .command('make <name>')
    .description('a token of your own; it never may more than you')
    .addOption(new Option('--may <what>', 'look; also run, pause and settle; or everything').choices([...scopes]).default('write'))
    .option('--days <n>', 'how long it is good for; for ever unless given')
    .addHelpText('after', '\nExample:\n  monsoon tokens make nightly-report --may read --days 90')
    .action(
      withContext(program, async ({ client, json }, name: string, options: { may: TokenScope; days?: string }) => {
        const days = options.days === undefined ? null : Number(options.days);
        if (days !== null && !Number.isInteger(days)) throw new WrongInput(`--days: "${options.days}" is not a whole number of days`);
        const made = await client.makeToken(name, options.may, days);
        if (json) return printJson(made);
        print(`${made.token}\nThis is shown only now.`);
      }),
    );
  tokens
    .command('withdraw <token>')
    .description('a token of yours; as an administrator, anybody’s')
    .action(
      withContext(program, async ({ client }, id: string) => {
        await client.withdrawToken(id);
        print('Withdrawn.');
      }),
    );
  const sessions = program.command('sessions').description('signed-in browsers: list, end');
  sessions.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.sessions();
      if (json) return printJson(items);
      print(
        table(
          ['Session', 'Of', 'Browser', 'Began', 'Last used'],
          items.map((s) => [s.id, s.email, s.agent, time(s.createdAt), time(s.lastUsedAt)]),
          'No browser is signed in.',
        ),
      );
    }),
  );
  sessions.command('end <session>').action(
    withContext(program, async ({ client }, id: string) => {
      await client.endSession(id);
      print('Ended.');
    }),
  );
}

/** Signs in as a browser does, for what no token may do, and out again. */
async function asBrowser(
  address: string,
  email: string,
  password: string,
  work: (client: MonsoonClient, me: MeAnswer) => Promise<unknown>,
): Promise<void> {
  const cookies = new Map<string, string>();
  const client = new MonsoonClient({
    address,
    fetch: async (input, init) => {
      const cookie = [...cookies].map(([name, value]) => `${name}=${value}`).join('; ');
      const headers = new Headers(init?.headers);
      if (cookie !== '') headers.set('cookie', cookie);
      const answer = await fetch(input, { ...init, headers });
      for (const set of answer.headers.getSetCookie()) {
        const [name = '', value = ''] = set.split(';')[0]!.split('=', 2);
        cookies.set(name, value);
      }
      return answer;
    },
  });
  const me = await client.signIn(email, password);
  try {
    await work(client, me);
  } finally {
    await client.signOut();
  }
}

/** A password from the variable, else from the terminal. */
async function secret(variable: string, question: string): Promise<string> {
  const given = process.env[variable];
  if (given !== undefined) return given;
  if (!process.stdin.isTTY) throw new ServiceProblem(0, `no password: set ${variable}, or run this on a terminal`);
  process.stderr.write(question);
  // What is typed is not shown.
  const lines = createInterface({ input: process.stdin, output: new Writable({ write: (_piece, _encoding, done) => done() }), terminal: true });
  const answer = await lines.question('');
  lines.close();
  process.stderr.write('\n');
  return answer;
}
