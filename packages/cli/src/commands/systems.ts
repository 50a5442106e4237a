import type { ProbeStepAnswer } from '@monsoon/contract';
import type { Command } from 'commander';
import { withContext } from '../context.ts';
import { readYaml, WrongInput } from '../input.ts';
import { exits, paint, print, printJson, state, table, time } from '../output.ts';

interface SystemFile {
  slug: string;
  name: string;
  kind: string;
  settings: unknown;
  secretsFrom?: Record<string, string>;
}

const outcomeOf = (step: ProbeStepAnswer): string =>
  step.outcome === 'failed' ? paint.failed('failed ') : step.outcome === 'warning' ? 'warning' : 'ok     ';

/** Connecting systems, and how they do. */
export function systemCommands(program: Command): Command {
  const systems = program.command('systems').description('outside systems: list, connect, check, try');
  systems
    .command('list', { isDefault: true })
    .description('every connected system')
    .action(
      withContext(program, async ({ client, json }) => {
        const { items } = await client.systems();
        if (json) return printJson(items);
        const rows = items.map((s) => [
          s.slug,
          s.name,
          s.kind,
          s.offers.join(', '),
          s.lapsed !== null ? paint.failed('credentials lapsed') : s.consent === 'needed' ? paint.held('to be authorised') : state(s.health.state),
          s.calls.allowance === null ? String(s.calls.used) : `${s.calls.used} of ${s.calls.allowance}`,
          s.lanes.join(', ') || '-',
        ]);
        print(
          table(
            ['System', 'Name', 'Kind', 'Offers', 'Health', 'Calls', 'Lanes'],
            rows,
            'No system is connected. Connect one: monsoon systems connect -f FILE',
          ),
        );
      }),
    );
  systems
    .command('kinds [kind]')
    .description('the kinds of systems that can be connected, and what each is asked for')
    .addHelpText('after', '\nExamples:\n  monsoon systems kinds\n  monsoon systems kinds postgresql')
    .action(
      withContext(program, async ({ client, json }, wanted?: string) => {
        const { items } = await client.kinds();
        const found = wanted === undefined ? items : items.filter((k) => k.kind === wanted);
        if (found.length === 0) throw new WrongInput(`there is no kind "${wanted}"; there are ${items.map((k) => k.kind).join(', ')}`);
        if (json) return printJson(wanted === undefined ? found : found[0]);
        if (wanted === undefined)
          return print(
            table(
              ['Kind', 'What', ''],
              found.map((k) => [k.kind, k.label, k.hint]),
              '',
            ),
          );
        const [kind] = found;
        print(`${kind!.label}. ${kind!.hint}\n`);
        const rows = [...kind!.settings.map((s) => ({ ...s, of: 'settings' })), ...kind!.secrets.map((s) => ({ ...s, of: 'secrets' }))].map((s) => [
          `${s.of}.${s.name}`,
          s.required ? 'yes' : '',
          s.choices.length > 0 ? s.choices.join(', ') : s.type,
          s.default === null ? '' : String(s.default),
          s.hint ?? s.label,
        ]);
        print(table(['Setting', 'Needed', 'Value', 'If not given', 'What it is'], rows, ''));
      }),
    );
  systems
    .command('check [system]')
    .description('ask a system, step by step, what it can do; with -f one that is not connected yet')
    .option('-f, --file <file>', 'a system file: nothing is kept')
    .addHelpText('after', '\nExamples:\n  monsoon systems check diary\n  DIARY_PASSWORD=... monsoon systems check -f demo/systems/diary.yaml')
    .action(
      withContext(program, async ({ client, json }, slug: string | undefined, options: { file?: string }) => {
        if ((slug === undefined) === (options.file === undefined)) throw new WrongInput('give the name of a system, or -f FILE');
        const what = slug ?? candidate(options.file!);
        const { ok, steps } = await client.checkLive(what, (step) => {
          if (!json) print(`${outcomeOf(step)}  ${step.name}: ${step.detail}`);
        });
        if (json) printJson({ ok, steps });
        if (!ok) process.exitCode = exits.failed;
      }),
    );
  systems
    .command('try <system>')
    .description('try everything that the settings say of a system, reading only, and show each request and answer')
    .option('--quiet', 'the findings without the requests')
    .addHelpText('after', '\nExample:\n  monsoon systems try workbench')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { quiet?: boolean }) => {
        const { ok, steps } = await client.trySystem(slug);
        if (json) printJson({ ok, steps });
        else
          for (const step of steps) {
            print(`${outcomeOf(step)}  ${step.name}: ${step.detail}`);
            if (options.quiet === true) continue;
            for (const e of step.exchanges) {
              print(paint.dim(`         ${e.method} ${e.url}${e.requestBody === '' ? '' : ` ${clip(e.requestBody)}`}`));
              print(paint.dim(`         ${e.status === null ? e.trouble : `${e.status} ${clip(e.answerBody)}`}`));
            }
          }
        if (!ok) process.exitCode = exits.failed;
      }),
    );
  systems
    .command('calls <system>')
    .description('the last calls of a system, newest first')
    .addHelpText('after', '\nExample:\n  monsoon systems calls front-desk')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const { items } = await client.calls(slug);
        if (json) return printJson(items);
        const rows = items
          .slice(0, 50)
          .map((c) => [
            time(c.at),
            c.method,
            c.url,
            c.status === null ? (c.trouble === null ? '-' : paint.failed(c.trouble)) : String(c.status),
            `${c.took} ms`,
            String(c.received),
          ]);
        print(table(['At', 'Method', 'Address', 'Answer', 'Took', 'Bytes'], rows, 'Nothing was asked of it yet.'));
      }),
    );
  systems
    .command('connect')
    .description('connect a system that a file describes; secrets come from environment variables that the file names')
    .requiredOption('-f, --file <file>', 'YAML with slug, name, kind, settings, and secretsFrom')
    .addHelpText('after', '\nExample:\n  DIARY_PASSWORD=... monsoon systems connect -f demo/systems/diary.yaml')
    .action(
      withContext(program, async ({ client, json }, options: { file: string }) => {
        const made = await client.connect(fromFile(options.file));
        if (json) return printJson(made);
        const next = made.consent === 'needed' ? `authorise ${made.slug}` : `check ${made.slug}`;
        print(`Connected ${made.name} as ${made.slug}. Next: monsoon systems ${next}`);
      }),
    );
  systems
    .command('change <system>')
    .description('give a connected system the settings, and the secrets, of a file')
    .requiredOption('-f, --file <file>', 'a system file')
    .addHelpText('after', '\nExample:\n  monsoon systems change diary -f demo/systems/diary.yaml')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { file: string }) => {
        const { kind, name, settings, secrets } = fromFile(options.file, true);
        const known = await client.system(slug);
        if (known.kind !== kind)
          throw new WrongInput(`${options.file}: it describes a system of the kind ${kind}, and ${slug} is ${known.kind}; give its own file`);
        const changed = await client.changeSystem(slug, { name, settings, secrets });
        if (json) return printJson(changed);
        print(`Changed ${changed.slug}. Next: monsoon systems check ${changed.slug}`);
      }),
    );
  systems
    .command('authorise <system>')
    .description('have a person consent, where a system is authorised by OAuth 2.0')
    .option('--no-wait', 'say where, and do not wait for it')
    .addHelpText('after', '\nExample:\n  monsoon systems authorise front-desk')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { wait: boolean }) => {
        const started = new Date().toISOString();
        const { url } = await client.authorise(slug);
        if (json) return printJson({ url });
        print(`Open this address in a browser and consent there:\n\n  ${url}\n`);
        if (!options.wait) return;
        print('Waiting for it (15 minutes at most; Ctrl-C ends the waiting, not the consent)...');
        for (const end = Date.now() + 15 * 60_000; Date.now() < end; ) {
          await new Promise((resolve) => setTimeout(resolve, 1000));
          const system = await client.system(slug);
          if (system.consent === 'given' && (system.authorisedAt ?? '') > started)
            return print(`${system.name} is authorised. Next: monsoon systems check ${slug}`);
        }
        throw new WrongInput(`no consent came in time; start again: monsoon systems authorise ${slug}`);
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
  return systems;
}

/** A system that is only asked about. */
function candidate(file: string) {
  const { kind, settings, secrets } = fromFile(file);
  return { kind, settings, secrets };
}

const clip = (text: string) => {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > 200 ? `${line.slice(0, 199)}...` : line;
};

/** @param some secrets whose variable is not set are left as they are */
function fromFile(file: string, some = false) {
  const { secretsFrom = {}, ...system } = readYaml<SystemFile>(file);
  const given = Object.entries(secretsFrom).flatMap(([name, variable]): [string, string][] => {
    const value = process.env[variable];
    if (value !== undefined) return [[name, value]];
    if (some) return [];
    throw new WrongInput(`${file}: the secret "${name}" comes from the environment variable ${variable}, which is not set; set it and repeat`);
  });
  return { ...system, secrets: Object.fromEntries(given) };
}
