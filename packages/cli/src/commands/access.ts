import { createInterface } from 'node:readline/promises';
import { MonsoonClient, ServiceProblem } from '@monsoon/client';
import type { Command } from 'commander';
import { makeContext, withContext } from '../context.ts';
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
      const password = process.env['MONSOON_PASSWORD'] ?? (await ask('Password: '));
      const cookies: string[] = [];
      const client = new MonsoonClient({
        address: settings.address,
        fetch: async (input, init) => {
          const answer = await fetch(input, {
            ...init,
            headers: { ...(init?.headers as Record<string, string>), ...(cookies.length > 0 ? { cookie: cookies.join('; ') } : {}) },
          });
          cookies.push(...answer.headers.getSetCookie().map((c) => c.split(';')[0]!));
          return answer;
        },
      });
      const me = await client.signIn(options.email, password);
      const { token } = await client.makeToken('command line', options.readOnly === true ? 'read' : 'write');
      await client.signOut();
      print(`Signed in as ${me.email}. The token is in ${writeSettings({ address: settings.address, token })}`);
    });
  const tokens = program.command('tokens').description('tokens for programs: list, make, withdraw');
  tokens.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.tokens();
      if (json) return printJson(items);
      print(
        table(
          ['Token', 'Name', 'May', 'Made', 'Last used'],
          items.map((t) => [t.id, t.name, t.may, time(t.createdAt), time(t.lastUsedAt)]),
          'No tokens.',
        ),
      );
    }),
  );
  tokens
    .command('make <name>')
    .option('--read-only', 'it may only read')
    .action(
      withContext(program, async ({ client, json }, name: string, options: { readOnly?: boolean }) => {
        const made = await client.makeToken(name, options.readOnly === true ? 'read' : 'write');
        if (json) return printJson(made);
        print(`${made.token}\nThis is shown only now.`);
      }),
    );
  tokens.command('withdraw <token>').action(
    withContext(program, async ({ client }, id: string) => {
      await client.withdrawToken(id);
      print('Withdrawn.');
    }),
  );
}

async function ask(question: string): Promise<string> {
  if (!process.stdin.isTTY) throw new ServiceProblem(0, 'no password: set MONSOON_PASSWORD, or run this on a terminal');
  const lines = createInterface({ input: process.stdin, output: process.stderr });
  const answer = await lines.question(question);
  lines.close();
  return answer;
}
