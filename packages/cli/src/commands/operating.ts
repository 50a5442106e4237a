import { spawn } from 'node:child_process';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { type Occasion, occasions } from '@monsoon/contract';
import { type Command, Option } from 'commander';
import { stringify } from 'yaml';
import { withContext } from '../context.ts';
import { readYaml, WrongInput } from '../input.ts';
import { exits, paint, print, printJson, table, time } from '../output.ts';

/** Starting processes, the red switch, what is kept how long, and who is notified. */
export function operatingCommands(program: Command): void {
  program
    .command('serve')
    .description('start the service here; docs/operating.md lists the environment it reads')
    .addOption(new Option('--role <role>', 'answer requests, work, or both').choices(['web', 'worker', 'both']).default('both'))
    .option('--port <port>', 'where it listens')
    .option('--health-port <port>', 'where a worker reports its health')
    .addHelpText(
      'after',
      '\nExample, two machines on one database:\n  DATABASE_URL=... monsoon serve --role web\n  DATABASE_URL=... monsoon serve --role worker --health-port 4711',
    )
    .action((options: { role: string; port?: string; healthPort?: string }) => {
      const found = createRequire(import.meta.url).resolve('@monsoon/service');
      const service = spawn(process.execPath, [join(dirname(found), 'main.js')], {
        stdio: 'inherit',
        env: {
          ...process.env,
          MONSOON_ROLE: options.role,
          ...(options.port === undefined ? {} : { MONSOON_PORT: options.port }),
          ...(options.healthPort === undefined ? {} : { MONSOON_HEALTH_PORT: options.healthPort }),
        },
      });
      for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => service.kill(signal));
      service.on('exit', (code) => process.exit(code ?? exits.failed));
    });
  program
    .command('pause-everything')
    .description('the red switch: from now on no lane writes anything, until resume-everything')
    .requiredOption('--why <reason>', 'for those who find everything paused')
    .action(
      withContext(program, async ({ client, json }, options: { why: string }) => {
        const paused = await client.pauseEverything(options.why);
        if (json) return printJson(paused);
        print(`${paint.failed('Everything is paused')}, by ${paused.by}: ${paused.why}`);
      }),
    );
  program
    .command('resume-everything')
    .description('every running lane looks at what changed meanwhile')
    .action(
      withContext(program, async ({ client }) => {
        await client.resumeEverything();
        print('Everything goes on.');
      }),
    );

  const settings = program.command('settings').description('what is kept how long: show, apply');
  settings.command('show', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const now = await client.settings();
      if (json) printJson(now);
      else print(`# Days; mailEvery in minutes. Change with: monsoon settings apply -f FILE\n${stringify(now).trimEnd()}`);
    }),
  );
  settings
    .command('apply')
    .requiredOption('-f, --file <file>', 'a file as "monsoon settings show" prints it')
    .action(
      withContext(program, async ({ client, json }, options: { file: string }) => {
        const now = await client.changeSettings(readYaml(options.file));
        if (json) printJson(now);
        else print(stringify(now).trimEnd());
      }),
    );
  program
    .command('reseal')
    .description('seal every stored secret with the first key of MONSOON_KEY, so that the others can go')
    .action(
      withContext(program, async ({ client }) => {
        const { resealed } = await client.reseal();
        print(`${resealed} secrets are sealed with the first key now.`);
      }),
    );
  notificationCommands(program);
}

function notificationCommands(program: Command): void {
  // Earlier versions called it "told".
  const notifications = program.command('notifications').alias('told').description('what you are notified of by mail: show, set');
  notifications.command('show', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const mine = await client.notifications();
      if (json) return printJson(mine);
      print(mine.occasions.length === 0 ? 'You are notified of nothing at once.' : `You are notified at once of: ${mine.occasions.join(', ')}.`);
      print(mine.digest === null ? 'No daily digest.' : `A daily digest at ${mine.digest.hour}:00, ${mine.digest.zone}.`);
    }),
  );
  notifications
    .command('set')
    .option('--of <occasions>', `any of ${occasions.join(', ')}; commas between them; "nothing" for none`)
    .option('--digest <hour>', 'the hour of the daily digest, 0 to 23, or "none"')
    .option('--zone <zone>', 'by whose clock')
    .addHelpText('after', '\nExample:\n  monsoon notifications set --of "needs a person, lane stopped" --digest 7 --zone Europe/London')
    .action(
      withContext(program, async ({ client, json }, options: { of?: string; digest?: string; zone?: string }) => {
        const before = await client.notifications();
        const digest =
          options.digest === undefined
            ? before.digest
            : options.digest === 'none'
              ? null
              : { hour: hourOf(options.digest), zone: options.zone ?? before.digest?.zone ?? 'UTC' };
        const of = options.of === undefined ? before.occasions : occasionsOf(options.of);
        const now = await client.setNotifications({ occasions: of, digest });
        if (json) return printJson(now);
        print(
          `Notified at once of ${now.occasions.join(', ') || 'nothing'}; ${now.digest === null ? 'no digest' : `a digest at ${now.digest.hour}:00 ${now.digest.zone}`}.`,
        );
      }),
    );

  const hooks = program.command('webhooks').description('other programs that are notified: list, add, test, remove');
  hooks.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.webhooks();
      if (json) return printJson(items);
      print(
        table(
          ['Webhook', 'Name', 'Address', 'Of', 'Last', ''],
          items.map((h) => [h.id, h.name, h.url, h.occasions.join(', '), time(h.lastAt), h.lastOutcome ?? '']),
          'No other program is notified.',
        ),
      );
    }),
  );
  hooks
    .command('add <name> <address>')
    .description('post to an address, signed as Standard Webhooks are')
    .option('--of <occasions>', 'commas between them', occasions.join(','))
    .action(
      withContext(program, async ({ client, json }, name: string, url: string, options: { of: string }) => {
        const made = await client.addWebhook({ name, url, occasions: occasionsOf(options.of) });
        if (json) return printJson(made);
        print(`${made.secret}\nThis secret is shown only now; the receiver checks signatures with it.`);
      }),
    );
  hooks.command('test <webhook>').action(
    withContext(program, async ({ client }, id: string) => {
      await client.testWebhook(id);
      print('It was taken.');
    }),
  );
  hooks.command('remove <webhook>').action(
    withContext(program, async ({ client }, id: string) => {
      await client.removeWebhook(id);
      print('Removed.');
    }),
  );
}

const occasionsOf = (text: string): Occasion[] => {
  const given = text
    .split(',')
    .map((o) => o.trim())
    .filter((o) => o !== '' && o !== 'nothing');
  const unknown = given.find((o) => !(occasions as readonly string[]).includes(o));
  if (unknown !== undefined) throw new WrongInput(`--of: "${unknown}" is not an occasion; occasions are ${occasions.join(', ')}`);
  return given as Occasion[];
};

const hourOf = (text: string): number => {
  if (!/^([01]?\d|2[0-3])$/.test(text)) throw new WrongInput(`--digest: "${text}" is not an hour from 0 to 23`);
  return Number(text);
};
