import { type FeedAnswer, type FeedSettings, type HostedCalendarAnswer, type HostedRight, hostedRights, type Role, roles } from '@monsoon/contract';
import type { Command } from 'commander';
import qrcode from 'qrcode';
import { withContext } from '../context.ts';
import { WrongInput } from '../input.ts';
import { print, printJson, table, time } from '../output.ts';

/** Calendars that Monsoon keeps itself, and the devices that come to them. */
export function calendarCommands(program: Command): void {
  const calendars = program.command('calendars').description('calendars that Monsoon keeps itself: list, make, change, share, remove');
  calendars.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.hostedCalendars();
      if (json) return printJson(items);
      const rows = items.map((c) => [c.slug, c.name, String(c.items), c.holds, c.owner ?? '', says(c), c.address]);
      print(
        table(
          ['Calendar', 'Name', 'Items', 'Holds', 'Whose', 'You may', 'Address for calendar programs'],
          rows,
          'No calendars.\nNext: monsoon calendars make "Hall bookings"',
        ),
      );
    }),
  );
  calendars
    .command('make <name>')
    .description('a new calendar, which is yours')
    .option('--colour <#rrggbb>', 'how programs show it')
    .option('--slug <name>', 'the end of its address; made from the name unless given')
    .option('--tasks', 'holds tasks in place of events')
    .addHelpText('after', '\nExample:\n  monsoon calendars make "Hall bookings" --colour #12706d')
    .action(
      withContext(program, async ({ client, json }, name: string, options: { colour?: string; slug?: string; tasks?: boolean }) => {
        const made = await client.makeHostedCalendar({
          name,
          ...(options.slug === undefined ? {} : { slug: options.slug }),
          ...(options.colour === undefined ? {} : { colour: options.colour }),
          ...(options.tasks === true ? { holds: 'tasks' as const } : {}),
        });
        if (json) return printJson(made);
        print(`Made "${made.name}": ${made.slug}\nFor calendar programs: ${made.address}\nA password for yours: monsoon devices add "my telephone"`);
      }),
    );
  calendars
    .command('change <calendar>')
    .option('--name <name>')
    .option('--colour <#rrggbb>')
    .option('--description <words>')
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { name?: string; colour?: string; description?: string }) => {
        if (Object.keys(options).length === 0) throw new WrongInput('nothing to change: give --name, --colour or --description');
        const changed = await client.changeHostedCalendar(slug, options);
        if (json) return printJson(changed);
        print(`Changed "${changed.name}".`);
      }),
    );
  calendars
    .command('share <calendar>')
    .description('say who may what; without options, show it')
    .option('--person <address=right...>', 'of one person')
    .option('--role <role=right...>', 'of everybody with a role')
    .addHelpText(
      'after',
      `\nRights: ${hostedRights.join(', ')}. What is said of a person goes before what is said of their role; what is not named stays as it is.\n\nExample:\n  monsoon calendars share hall --role "viewer=busy only" --person "bram@alder-wren.example=read and write"`,
    )
    .action(
      withContext(program, async ({ client, json }, slug: string, options: { person?: string[]; role?: string[] }) => {
        const before = await client.hostedCalendar(slug);
        const people = (options.person ?? []).map((p) => pairIn(p, '--person'));
        const ofRoles = (options.role ?? []).map((r) => pairIn(r, '--role'));
        const unknown = ofRoles.find(([role]) => !(roles as readonly string[]).includes(role));
        if (unknown !== undefined) throw new WrongInput(`--role: "${unknown[0]}" is not a role; roles are ${roles.join(', ')}`);
        const rights = new Map(
          before.rights.map((r) => [r.person ?? r.role!, { person: r.person, role: r.role as Role | null, may: r.may as HostedRight }]),
        );
        for (const [person, may] of people) rights.set(person, { person, role: null, may });
        for (const [role, may] of ofRoles) rights.set(role, { person: null, role: role as Role, may });
        const asked = people.length + ofRoles.length > 0;
        const after = asked ? await client.shareHostedCalendar(slug, [...rights.values()]) : before;
        if (json) return printJson(after?.rights ?? []);
        print(
          table(
            ['Who', 'May'],
            (after?.rights ?? []).map((r) => [r.person ?? `everybody who is ${r.role}`, r.may]),
            'No rights are set: the owner and administrators read and write, no one else sees it.',
          ),
        );
      }),
    );
  calendars
    .command('remove <calendar>')
    .description('with everything on it; one that a lane or feed uses is not removed')
    .requiredOption('--yes', 'it cannot be taken back')
    .action(
      withContext(program, async ({ client }, slug: string) => {
        await client.removeHostedCalendar(slug);
        print('Removed.');
      }),
    );

  const devices = program.command('devices').description('passwords by which your calendar programs come in: list, add, withdraw');
  devices.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.devices();
      if (json) return printJson(items);
      print(
        table(
          ['Device', 'Name', 'Made', 'Last used', 'By'],
          items.map((d) => [d.id, d.name, time(d.createdAt), time(d.lastUsedAt), d.agent]),
          'No devices.\nNext: monsoon devices add "my telephone"',
        ),
      );
    }),
  );
  devices
    .command('add <name>')
    .description('a password for one device; it is shown this once')
    .action(
      withContext(program, async ({ client, json }, name: string) => {
        const made = await client.addDevice(name);
        if (json) return printJson(made);
        print(
          `In the calendar program on ${made.name}, add a CalDAV account:\n  address   ${made.address}\n  user      ${made.user}\n  password  ${made.password}\nThe password is shown only now.`,
        );
      }),
    );
  devices.command('withdraw <device>').action(
    withContext(program, async ({ client }, id: string) => {
      await client.withdrawDevice(id);
      print('Withdrawn: that device comes in no more.');
    }),
  );
}

const says = (c: HostedCalendarAnswer): string => (c.filledBy.length > 0 ? `look: filled by ${c.filledBy.join(', ')}` : c.may);

function pairIn(text: string, option: string): [string, HostedRight] {
  const at = text.lastIndexOf('=');
  const may = text.slice(at + 1).trim();
  if (at < 1 || !(hostedRights as readonly string[]).includes(may))
    throw new WrongInput(`${option}: "${text}" is no right such as "viewer=busy only"; rights are ${hostedRights.join(', ')}`);
  return [text.slice(0, at).trim(), may as HostedRight];
}

interface FeedOptions {
  name?: string;
  lane?: string;
  system?: string;
  calendar?: string;
  shows?: string;
  alarms?: boolean;
  where?: string;
  behind?: string;
  ahead?: string;
  all?: boolean;
  refresh?: string;
  colour?: string;
  ends?: string;
}

/** Addresses to subscribe to. */
export function feedCommands(program: Command): void {
  const feeds = program.command('feeds').description('addresses to subscribe to: list, make, show, change, renew, revoke, mail, qr, remove');
  feeds.command('list', { isDefault: true }).action(
    withContext(program, async ({ client, json }) => {
      const { items } = await client.feeds();
      if (json) return printJson(items);
      print(
        table(
          ['Feed', 'Name', 'Of', 'Shows', 'Events', 'State', 'Last fetched', 'Readers in 30 days'],
          items.map((f) => [f.slug, f.name, ofWhat(f), showsWhat(f), String(f.events), stateOf(f), time(f.lastFetchedAt), String(f.askers)]),
          'No feeds.\nNext: monsoon feeds make "Hall bookings" --lane hall-bookings',
        ),
      );
    }),
  );
  const settings = (command: Command) =>
    command
      .option('--shows <what>', '"full", "busy only", or properties such as title,location')
      .option('--alarms', 'with reminders')
      .option('--no-alarms', 'without reminders')
      .option('--where <condition>', 'only events that fit: title contains "Visit"; "" for all')
      .option('--behind <days>', 'how far back')
      .option('--ahead <days>', 'how far ahead')
      .option('--all', 'of all times')
      .option('--refresh <minutes>', 'how often programs should look')
      .option('--colour <#rrggbb>')
      .option('--ends <day>', 'from then on the address is unknown; "never" takes it away');
  settings(feeds.command('make <name>'))
    .description('a feed of a lane\u2019s events, or of a calendar')
    .option('--lane <lane>', 'the events that a lane follows')
    .option('--system <system>', 'of a calendar of this system')
    .option('--calendar <calendar>', 'its name or address')
    .addHelpText(
      'after',
      '\nUnless said, a feed shows only that time is taken, from 60 days back to 400 days ahead.\n\nExamples:\n  monsoon feeds make "Tuning visits" --lane tuning-visits --shows title,location\n  monsoon feeds make "Hall" --system hosted --calendar "Hall bookings"',
    )
    .action(
      withContext(program, async ({ client, json }, name: string, options: FeedOptions) => {
        const { lane, system, calendar } = options;
        const made = await client.makeFeed({ name, ...settingsOf(options), ...defined({ lane, system, calendar }) });
        if (json) return printJson(made);
        print(`${made.address}\nAnyone who has this address can read ${made.events} events. Show it again: monsoon feeds show ${made.slug}`);
      }),
    );
  feeds.command('show <feed>').action(
    withContext(program, async ({ client, json }, slug: string) => {
      const feed = await client.feed(slug);
      if (json) return printJson(feed);
      const rows = [
        ['Name', feed.name],
        ['Of', ofWhat(feed)],
        ['Shows', `${showsWhat(feed)}${feed.alarms ? ', with reminders' : ''}`],
        ['Only', feed.condition ?? 'everything'],
        ['From', feed.window === null ? 'all times' : `${feed.window.behind} days back to ${feed.window.ahead} days ahead`],
        ['Events', String(feed.events)],
        ['State', stateOf(feed)],
        ['Address', feed.address ?? '-'],
        ['To subscribe at a click', feed.webcal ?? '-'],
        [
          'Fetched',
          `${feed.fetches} ${feed.fetches === 1 ? 'time' : 'times'}, last ${time(feed.lastFetchedAt)}, by ${feed.askers} ${feed.askers === 1 ? 'program' : 'programs'} in 30 days`,
        ],
      ];
      print(table(['', ''], rows, ''));
    }),
  );
  settings(feeds.command('change <feed>').option('--name <name>')).action(
    withContext(program, async ({ client, json }, slug: string, options: FeedOptions) => {
      const before = await client.feed(slug);
      const feed = await client.changeFeed(slug, settingsOf(options, before.window));
      if (json) return printJson(feed);
      print(`"${feed.name}" shows ${feed.events} events: ${showsWhat(feed)}.`);
    }),
  );
  feeds
    .command('renew <feed>')
    .description('another address; the old one is unknown from now on')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const feed = await client.renewFeed(slug);
        if (json) return printJson(feed);
        print(`${feed.address}`);
      }),
    );
  feeds
    .command('revoke <feed>')
    .description('the address is unknown from now on')
    .action(
      withContext(program, async ({ client, json }, slug: string) => {
        const feed = await client.revokeFeed(slug);
        if (json) return printJson(feed);
        print(`"${feed.name}" has no address any more; monsoon feeds renew ${feed.slug} gives it another.`);
      }),
    );
  feeds
    .command('mail <feed> <addresses...>')
    .description('mail the address to people')
    .action(
      withContext(program, async ({ client }, slug: string, to: string[]) => {
        await client.mailFeed(slug, to);
        print(`Mailed to ${to.join(', ')}.`);
      }),
    );
  feeds
    .command('qr <feed>')
    .description('the address as a picture for telephones')
    .action(
      withContext(program, async ({ client }, slug: string) => {
        const { webcal } = await client.feed(slug);
        if (webcal === null) throw new WrongInput(`the feed "${slug}" is revoked: renew it first`);
        print(await qrcode.toString(webcal, { type: 'utf8' }));
      }),
    );
  feeds.command('remove <feed>').action(
    withContext(program, async ({ client }, slug: string) => {
      await client.removeFeed(slug);
      print('Removed.');
    }),
  );
}

const ofWhat = (f: FeedAnswer): string => (f.lane === null ? f.calendarName : `lane ${f.lane}`);
const showsWhat = (f: FeedAnswer): string => (Array.isArray(f.shows) ? `time${f.shows.map((s) => `, ${s}`).join('')}` : (f.shows ?? ''));

function stateOf(f: FeedAnswer): string {
  if (f.revokedAt !== null) return 'revoked';
  if (f.endsAt !== null && Date.parse(f.endsAt) < Date.now()) return 'ended';
  if (f.trouble !== null) return f.trouble;
  return f.endsAt === null ? 'open' : `open until ${f.endsAt.slice(0, 10)}`;
}

const defined = <T extends object>(given: T): { [K in keyof T]: Exclude<T[K], undefined> } =>
  Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)) as never;

function wholeDays(text: string | undefined, option: string): number | undefined {
  if (text === undefined) return undefined;
  if (!/^\d{1,5}$/.test(text)) throw new WrongInput(`${option}: "${text}" is not a whole number`);
  return Number(text);
}

function settingsOf(options: FeedOptions, before: FeedAnswer['window'] = null): Partial<FeedSettings> & { endsAt?: string | null } {
  const { name, shows, alarms, where, colour, ends, all } = options;
  const [behind, ahead] = [wholeDays(options.behind, '--behind'), wholeDays(options.ahead, '--ahead')];
  const window = { behind: behind ?? before?.behind ?? 60, ahead: ahead ?? before?.ahead ?? 400 };
  return defined({
    name,
    shows: (shows === undefined || shows === 'full' || shows === 'busy only' ? shows : shows.split(',').map((s) => s.trim())) as
      | FeedSettings['shows']
      | undefined,
    alarms,
    condition: where === undefined ? undefined : where === '' ? null : where,
    window: all === true ? null : behind === undefined && ahead === undefined ? undefined : window,
    refresh: wholeDays(options.refresh, '--refresh'),
    colour,
    endsAt: ends === 'never' ? null : ends,
  }) as Partial<FeedSettings> & { endsAt?: string | null };
}
