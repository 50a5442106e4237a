import createClient, { type Client } from 'openapi-fetch';
import { events, given, got, gotAs, problemOf, ServiceProblem, search, unchecked } from './asking.ts';
import type {
  ActivityAnswer,
  AgendaAnswer,
  AuditAnswer,
  CalendarAnswer,
  CallAnswer,
  CheckAnswer,
  ColleagueAnswer,
  CollectionAnswer,
  CountedAnswer,
  DeviceAnswer,
  DraftAnswer,
  FailureGroup,
  FeedAnswer,
  FeedSettings,
  ForecastAnswer,
  GuestAnswer,
  GuestState,
  HealthAnswer,
  HoldAnswer,
  HookAnswer,
  HostedCalendarAnswer,
  HostedRight,
  ItemAnswer,
  ItemDetail,
  ItemOrder,
  JournalAnswer,
  KindAnswer,
  LaneAnswer,
  LaneDraftAnswer,
  LaneFileAnswer,
  LaneFileCheck,
  LaneGuestsAnswer,
  MadeDeviceAnswer,
  MeAnswer,
  NotificationSettings,
  Page,
  PastAudit,
  PausedAnswer,
  PreviewAnswer,
  ProbeStepAnswer,
  Role,
  RunAnswer,
  SampleAnswer,
  SessionAnswer,
  Settings,
  StarterAnswer,
  StopChoice,
  StopForecast,
  SuggestAnswer,
  SystemAnswer,
  TodayAnswer,
  TokenAnswer,
  TokenScope,
  TrackingAnswer,
  TryAnswer,
  UndoAnswer,
  VersionAnswer,
} from './index.ts';
import type { paths } from './openapi.ts';

export interface ClientOptions {
  /** where the service is; empty in a page that it served itself */
  address: string;
  token?: string | undefined;
  fetch?: typeof fetch;
}

export { ServiceProblem };

/** What is counted: what lanes stand for, or the records of a collection, or the events of a calendar. */
export interface CountQuery {
  step?: 'day' | 'week' | 'month';
  from: string;
  until: string;
  zone?: string;
  lane?: string;
  system?: string;
  collection?: string;
  calendar?: string;
  date?: string;
  by?: string;
}

/** A span of days, of lanes (their short names, with commas between), or of a calendar. */
export interface AgendaQuery {
  from: string;
  until: string;
  zone?: string;
  lane?: string;
  system?: string;
  calendar?: string;
  forecast?: boolean;
  counts?: boolean;
}

/** Every call of the HTTP interface that the console and the command line make. */
export class MonsoonClient {
  readonly address: string;
  readonly #token: string | undefined;
  readonly #fetch: typeof fetch;
  readonly #http: Client<paths>;

  constructor(options: ClientOptions) {
    this.address = options.address.replace(/\/$/, '');
    this.#token = options.token;
    this.#fetch = options.fetch ?? ((input, init) => fetch(input, init));
    this.#http = createClient<paths>({ baseUrl: this.address, headers: { accept: 'application/json' }, fetch: (request) => this.#ask(request, {}) });
  }

  signIn = (email: string, password: string) => got<MeAnswer>(this.#http.POST('/api/v1/session', { body: { email, password } }));
  signInWays = () => got<{ provider: string | null }>(this.#http.GET('/api/v1/session/ways'));
  signOut = () => got<void>(this.#http.DELETE('/api/v1/session'));
  me = () => got<MeAnswer>(this.#http.GET('/api/v1/session'));
  tokens = () => got<Page<TokenAnswer>>(this.#http.GET('/api/v1/tokens'));
  makeToken = (name: string, may: TokenScope, days: number | null = null) =>
    got<TokenAnswer & { token: string }>(this.#http.POST('/api/v1/tokens', { body: { name, may, days } }));
  withdrawToken = (id: string) => got<void>(this.#http.DELETE('/api/v1/tokens/{token}', { params: { path: { token: id } } }));
  /** @param devices end the passwords of your devices, too */
  changePassword = (current: string, password: string, devices = false) =>
    got<void>(this.#http.PUT('/api/v1/session/password', { body: { current, password, devices } }));
  sessions = () => got<Page<SessionAnswer>>(this.#http.GET('/api/v1/sessions'));
  endSession = (id: string) => got<void>(this.#http.DELETE('/api/v1/sessions/{session}', { params: { path: { session: id } } }));

  /** The calendars that Monsoon keeps, as far as the caller may see them. */
  hostedCalendars = () => got<Page<HostedCalendarAnswer>>(this.#http.GET('/api/v1/hosted-calendars'));
  makeHostedCalendar = (calendar: { slug?: string; name: string; colour?: string | null; description?: string; holds?: 'events' | 'tasks' }) =>
    got<HostedCalendarAnswer>(this.#http.POST('/api/v1/hosted-calendars', { body: unchecked(calendar) }));
  hostedCalendar = (calendar: string) =>
    got<HostedCalendarAnswer>(this.#http.GET('/api/v1/hosted-calendars/{calendar}', { params: { path: { calendar } } }));
  changeHostedCalendar = (calendar: string, change: { name?: string; colour?: string | null; description?: string }) =>
    got<HostedCalendarAnswer>(this.#http.PATCH('/api/v1/hosted-calendars/{calendar}', { params: { path: { calendar } }, body: change }));
  /** All rights at once: of people by their address, and of roles. */
  shareHostedCalendar = (calendar: string, rights: { person?: string | null; role?: Role | null; may: HostedRight }[]) =>
    got<HostedCalendarAnswer | null>(
      this.#http.PUT('/api/v1/hosted-calendars/{calendar}/rights', { params: { path: { calendar } }, body: unchecked({ rights }) }),
    );
  removeHostedCalendar = (calendar: string) =>
    got<void>(this.#http.DELETE('/api/v1/hosted-calendars/{calendar}', { params: { path: { calendar } } }));
  devices = () => got<Page<DeviceAnswer>>(this.#http.GET('/api/v1/devices'));
  /** @returns with the password, which is shown this once */
  addDevice = (name: string) => got<MadeDeviceAnswer>(this.#http.POST('/api/v1/devices', { body: { name } }));
  withdrawDevice = (id: string) => got<void>(this.#http.DELETE('/api/v1/devices/{device}', { params: { path: { device: id } } }));

  feeds = () => got<Page<FeedAnswer>>(this.#http.GET('/api/v1/feeds'));
  makeFeed = (
    feed: Partial<FeedSettings> & { name: string; slug?: string; lane?: string; system?: string; calendar?: string; endsAt?: string | null },
  ) => got<FeedAnswer>(this.#http.POST('/api/v1/feeds', { body: unchecked(feed) }));
  feed = (feed: string) => got<FeedAnswer>(this.#http.GET('/api/v1/feeds/{feed}', { params: { path: { feed } } }));
  feedPreview = (feed: string) =>
    got<{ text: string; events: number }>(this.#http.GET('/api/v1/feeds/{feed}/preview', { params: { path: { feed } } }));
  changeFeed = (feed: string, change: Partial<FeedSettings> & { endsAt?: string | null }) =>
    got<FeedAnswer>(this.#http.PATCH('/api/v1/feeds/{feed}', { params: { path: { feed } }, body: unchecked(change) }));
  renewFeed = (feed: string) => got<FeedAnswer>(this.#http.POST('/api/v1/feeds/{feed}/renew', { params: { path: { feed } } }));
  revokeFeed = (feed: string) => got<FeedAnswer>(this.#http.POST('/api/v1/feeds/{feed}/revoke', { params: { path: { feed } } }));
  mailFeed = (feed: string, to: string[]) => got<void>(this.#http.POST('/api/v1/feeds/{feed}/mail', { params: { path: { feed } }, body: { to } }));
  removeFeed = (feed: string) => got<void>(this.#http.DELETE('/api/v1/feeds/{feed}', { params: { path: { feed } } }));

  people = () => got<Page<ColleagueAnswer>>(this.#http.GET('/api/v1/people'));
  addPerson = (person: { email: string; name: string; role: Role; password?: string }) =>
    got<ColleagueAnswer>(this.#http.POST('/api/v1/people', { body: person }));
  /** @param person an address or an id */
  changePerson = (
    person: string,
    change: { name?: string; role?: Role; password?: string; disabled?: boolean; unlock?: boolean; provider?: boolean },
  ) => got<ColleagueAnswer>(this.#http.PATCH('/api/v1/people/{person}', { params: { path: { person } }, body: change }));
  removePerson = (person: string) => got<void>(this.#http.DELETE('/api/v1/people/{person}', { params: { path: { person } } }));
  /** @param email null: only administrators arrange it */
  setOwner = (lane: string, email: string | null) =>
    gotAs<LaneAnswer>(this.#http.PUT('/api/v1/lanes/{lane}/owner', { params: { path: { lane } }, body: { email } }));
  activity = (query: { by?: string; lane?: string; cursor?: string; limit?: number } = {}) =>
    got<Page<ActivityAnswer>>(this.#http.GET('/api/v1/activity', { params: { query: given(query) } }));

  /** Whether everything is paused; null: no. */
  paused = () => got<PausedAnswer | null>(this.#http.GET('/api/v1/pause'));
  pauseEverything = (why: string) => gotAs<PausedAnswer>(this.#http.PUT('/api/v1/pause', { body: { why } }));
  resumeEverything = () => got<void>(this.#http.DELETE('/api/v1/pause'));

  settings = () => gotAs<Settings>(this.#http.GET('/api/v1/settings'));
  changeSettings = (settings: unknown) => gotAs<Settings>(this.#http.PUT('/api/v1/settings', { body: unchecked(settings) }));
  reseal = () => got<{ resealed: number }>(this.#http.POST('/api/v1/settings/reseal'));
  notifications = () => got<NotificationSettings>(this.#http.GET('/api/v1/session/notifications'));
  setNotifications = (wanted: NotificationSettings) => got<NotificationSettings>(this.#http.PUT('/api/v1/session/notifications', { body: wanted }));
  webhooks = () => got<Page<HookAnswer>>(this.#http.GET('/api/v1/webhooks'));
  /** @returns with the secret, which is shown this once */
  addWebhook = (hook: { name: string; url: string; occasions: string[] }) =>
    got<HookAnswer & { secret: string }>(this.#http.POST('/api/v1/webhooks', { body: unchecked(hook) }));
  testWebhook = (id: string) => got<HookAnswer>(this.#http.POST('/api/v1/webhooks/{webhook}/test', { params: { path: { webhook: id } } }));
  removeWebhook = (id: string) => got<void>(this.#http.DELETE('/api/v1/webhooks/{webhook}', { params: { path: { webhook: id } } }));

  failures = (lane: string) => got<Page<FailureGroup>>(this.#http.GET('/api/v1/lanes/{lane}/failures', { params: { path: { lane } } }));
  /** Tries again what failed, for one reason or for any. */
  retry = (lane: string, what: { reason?: string; condition?: string } = {}) =>
    got<RunAnswer>(this.#http.POST('/api/v1/lanes/{lane}/retry', { params: { path: { lane } }, body: what }));
  pastAudits = (lane: string) => got<Page<PastAudit>>(this.#http.GET('/api/v1/lanes/{lane}/audits', { params: { path: { lane } } }));
  /** What stands where: both sides of lanes, the events of a calendar, or a forecast. */
  agenda = (ask: AgendaQuery) => gotAs<AgendaAnswer>(this.#http.GET('/api/v1/agenda', { params: { query: given(ask) } }));
  counts = (ask: CountQuery) => got<CountedAnswer>(this.#http.GET('/api/v1/counts', { params: { query: given(ask) } }));
  /** The same as CSV. */
  countsCsv = async (ask: CountQuery): Promise<string> => (await this.#stream('GET', countsPath(ask), 'text/csv')).text();
  /** The journal as text, piece by piece. */
  async *exportJournal(ask: { format: 'csv' | 'json'; lane?: string; run?: string; since?: string; values?: boolean }): AsyncGenerator<string> {
    const { values, ...rest } = ask;
    const query = search({ ...rest, ...(values === true ? { values: 'true' } : {}) });
    const answer = await this.#stream('GET', `/journal/export${query}`, '*/*');
    const decoder = new TextDecoder();
    for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) yield decoder.decode(piece, { stream: true });
  }

  health = () => got<HealthAnswer>(this.#http.GET('/api/v1/health'));
  today = () => gotAs<TodayAnswer>(this.#http.GET('/api/v1/today'));

  systems = () => gotAs<Page<SystemAnswer>>(this.#http.GET('/api/v1/systems'));
  system = (slug: string) => gotAs<SystemAnswer>(this.#http.GET('/api/v1/systems/{system}', { params: { path: { system: slug } } }));
  connect = (system: { slug: string; name: string; kind: string; settings: unknown; secrets: unknown }) =>
    gotAs<SystemAnswer>(this.#http.POST('/api/v1/systems', { body: unchecked(system) }));
  changeSystem = (slug: string, change: { name?: string; settings?: unknown; secrets?: unknown }) =>
    gotAs<SystemAnswer>(this.#http.PATCH('/api/v1/systems/{system}', { params: { path: { system: slug } }, body: unchecked(change) }));
  disconnect = (slug: string) => got<void>(this.#http.DELETE('/api/v1/systems/{system}', { params: { path: { system: slug } } }));
  checkSystem = (slug: string) => got<CheckAnswer>(this.#http.POST('/api/v1/systems/{system}/check', { params: { path: { system: slug } } }));
  collections = (slug: string) =>
    got<Page<CollectionAnswer>>(this.#http.GET('/api/v1/systems/{system}/collections', { params: { path: { system: slug } } }));
  kinds = () => gotAs<Page<KindAnswer>>(this.#http.GET('/api/v1/kinds'));
  /** Checks a connected system, or one that is about to be; hears each step as it comes. */
  async checkLive(
    what: string | { kind: string; settings: unknown; secrets: unknown },
    heard: (step: ProbeStepAnswer) => void,
    signal?: AbortSignal,
  ): Promise<CheckAnswer> {
    const [path, body] = typeof what === 'string' ? [`/systems/${enc(what)}/check`, undefined] : ['/systems/check', what];
    const answer = await this.#stream('POST', path, 'text/event-stream', { body, signal });
    for await (const { event, data } of events(answer)) {
      if (event === 'step') heard(JSON.parse(data) as ProbeStepAnswer);
      if (event === 'done') return JSON.parse(data) as CheckAnswer;
    }
    throw new ServiceProblem(0, 'the check broke off: Monsoon ended or was restarted; check again');
  }
  trySystem = (slug: string) => got<TryAnswer>(this.#http.POST('/api/v1/systems/{system}/try', { params: { path: { system: slug } } }));
  calls = (slug: string) => got<Page<CallAnswer>>(this.#http.GET('/api/v1/systems/{system}/calls', { params: { path: { system: slug } } }));
  /** @returns where a person consents */
  authorise = (slug: string, back = '/systems') =>
    got<{ url: string }>(this.#http.POST('/api/v1/systems/{system}/consent', { params: { path: { system: slug } }, body: { back } }));
  tracking = (slug: string, collection: string) =>
    got<TrackingAnswer>(this.#http.GET('/api/v1/systems/{system}/tracking/{collection}', { params: { path: { system: slug, collection } } }));
  track = (slug: string, collection: string, on: boolean) =>
    got<TrackingAnswer>(
      on
        ? this.#http.POST('/api/v1/systems/{system}/tracking/{collection}', { params: { path: { system: slug, collection } } })
        : this.#http.DELETE('/api/v1/systems/{system}/tracking/{collection}', { params: { path: { system: slug, collection } } }),
    );
  changeCalendar = (slug: string, change: { calendar: string; name?: string; colour?: string }) =>
    got<CalendarAnswer>(this.#http.PATCH('/api/v1/systems/{system}/calendars', { params: { path: { system: slug } }, body: change }));
  tryMail = (slug: string, to: string) =>
    got<void>(this.#http.POST('/api/v1/systems/{system}/mail', { params: { path: { system: slug } }, body: { to } }));
  draftDescriptor = (document: unknown) =>
    got<DraftAnswer>(this.#http.POST('/api/v1/descriptors/draft', { body: { document: unchecked(document) } }));
  descriptorSchema = () => got<object>(this.#http.GET('/api/v1/descriptors/schema'));
  calendars = (slug: string) =>
    got<Page<CalendarAnswer>>(this.#http.GET('/api/v1/systems/{system}/calendars', { params: { path: { system: slug } } }));
  makeCalendar = (slug: string, name: string, colour: string | null, holds: 'events' | 'tasks' = 'events') =>
    got<CalendarAnswer>(this.#http.POST('/api/v1/systems/{system}/calendars', { params: { path: { system: slug } }, body: { name, colour, holds } }));

  lanes = () => gotAs<Page<LaneAnswer>>(this.#http.GET('/api/v1/lanes'));
  lane = (slug: string) => gotAs<LaneAnswer>(this.#http.GET('/api/v1/lanes/{lane}', { params: { path: { lane: slug } } }));
  makeLane = (slug: string, definition: unknown, start = true) =>
    gotAs<LaneAnswer>(this.#http.POST('/api/v1/lanes', { body: { slug, definition: unchecked(definition), start } }));
  /** @param version the version that was edited: a newer one is not overwritten */
  changeLane = (slug: string, version: number, definition: unknown) =>
    gotAs<LaneAnswer>(
      this.#http.PUT('/api/v1/lanes/{lane}', {
        params: { path: { lane: slug } },
        headers: { 'if-match': `"${version}"` },
        body: unchecked(definition),
      }),
    );
  removeLane = (slug: string) => got<void>(this.#http.DELETE('/api/v1/lanes/{lane}', { params: { path: { lane: slug } } }));
  pause = (slug: string) => gotAs<LaneAnswer>(this.#http.POST('/api/v1/lanes/{lane}/pause', { params: { path: { lane: slug } } }));
  resume = (slug: string) => gotAs<LaneAnswer>(this.#http.POST('/api/v1/lanes/{lane}/resume', { params: { path: { lane: slug } } }));
  /** What stopping would do with what the lane made. */
  foreseeStop = (slug: string, events: StopChoice) =>
    gotAs<StopForecast>(this.#http.GET('/api/v1/lanes/{lane}/stop', { params: { path: { lane: slug }, query: given({ events }) } }));
  stopLane = (slug: string, events: StopChoice) =>
    gotAs<LaneAnswer>(this.#http.POST('/api/v1/lanes/{lane}/stop', { params: { path: { lane: slug } }, body: { events } }));
  /** @param definition what the lane would be instead */
  forecast = (slug: string, definition?: unknown) =>
    gotAs<ForecastAnswer>(
      this.#http.POST('/api/v1/lanes/{lane}/forecast', {
        params: { path: { lane: slug } },
        body: definition === undefined ? {} : { definition: unchecked(definition) },
      }),
    );
  audit = (slug: string) => gotAs<AuditAnswer>(this.#http.POST('/api/v1/lanes/{lane}/audit', { params: { path: { lane: slug } } }));
  run = (slug: string, options: { sweep?: boolean; records?: string[]; hrefs?: string[] } = {}) =>
    got<RunAnswer>(this.#http.POST('/api/v1/lanes/{lane}/runs', { params: { path: { lane: slug } }, body: options }));
  items = (slug: string, query: { search?: string; state?: string; order?: ItemOrder; descending?: boolean; cursor?: string; limit?: number } = {}) =>
    gotAs<Page<ItemAnswer>>(
      this.#http.GET('/api/v1/lanes/{lane}/items', { params: { path: { lane: slug }, query: given({ ...query, state: unchecked(query.state) }) } }),
    );
  item = (slug: string, recordId: string, moment?: string) =>
    gotAs<ItemDetail>(
      this.#http.GET('/api/v1/lanes/{lane}/items/{record}', { params: { path: { lane: slug, record: recordId }, query: given({ moment }) } }),
    );
  /** Follows again what the lane has unlinked: a record by its id, an event without one by its address. */
  follow = (slug: string, item: string) =>
    got<RunAnswer>(this.#http.POST('/api/v1/lanes/{lane}/items/{record}/follow', { params: { path: { lane: slug, record: item } } }));
  why = (slug: string, item: string) =>
    gotAs<ItemDetail>(this.#http.GET('/api/v1/lanes/{lane}/why', { params: { path: { lane: slug }, query: given({ item }) } }));

  sample = (system: string, collection: string) =>
    got<SampleAnswer>(this.#http.GET('/api/v1/systems/{system}/collections/{collection}/sample', { params: { path: { system, collection } } }));
  starters = () => got<Page<StarterAnswer>>(this.#http.GET('/api/v1/starters'));
  /** A lane for two sides, as the fields found suggest it. */
  suggest = (ask: {
    records: { system: string; collection: string };
    calendar?: { system: string; calendar: string };
    direction?: string;
    starter?: string;
    zone?: string;
  }) => got<SuggestAnswer>(this.#http.POST('/api/v1/lanes/suggest', { body: unchecked(ask) }));
  /** What a lane that is being arranged would do with what is there now. */
  preview = (ask: {
    definition: object;
    lane?: string;
    show?: string[];
    edit?: { record: string; moment: string; property: string; value: string };
  }) => got<PreviewAnswer>(this.#http.POST('/api/v1/lanes/preview', { body: unchecked(ask) }));
  drafts = () => got<Page<LaneDraftAnswer>>(this.#http.GET('/api/v1/drafts'));
  draft = (id: string) => got<LaneDraftAnswer>(this.#http.GET('/api/v1/drafts/{draft}', { params: { path: { draft: id } } }));
  makeDraft = (draft: { slug: string; lane?: string; definition: object }) =>
    got<LaneDraftAnswer>(this.#http.POST('/api/v1/drafts', { body: unchecked(draft) }));
  /** @param version the saving that was edited */
  saveDraft = (id: string, draft: { slug?: string; version: number; definition: object }) =>
    got<LaneDraftAnswer>(this.#http.PUT('/api/v1/drafts/{draft}', { params: { path: { draft: id } }, body: unchecked(draft) }));
  dropDraft = (id: string) => got<void>(this.#http.DELETE('/api/v1/drafts/{draft}', { params: { path: { draft: id } } }));
  laneSchema = () => got<object>(this.#http.GET('/api/v1/schemas/lane'));
  /** Findings about a lane file, with their lines, and what it would change. */
  checkLaneFile = (slug: string, text: string) => got<LaneFileCheck>(this.#http.POST('/api/v1/lane-files/check', { body: { slug, text } }));
  /** @param version the version that was looked at; 0: the lane is new */
  applyLaneFile = (slug: string, text: string, options: { start?: boolean; version?: number } = {}) =>
    gotAs<LaneAnswer>(this.#http.POST('/api/v1/lane-files', { body: { slug, text, ...options } }));
  laneFile = (slug: string, version?: number) =>
    got<LaneFileAnswer>(this.#http.GET('/api/v1/lanes/{lane}/file', { params: { path: { lane: slug }, query: given({ version }) } }));
  versions = (slug: string) => got<Page<VersionAnswer>>(this.#http.GET('/api/v1/lanes/{lane}/versions', { params: { path: { lane: slug } } }));

  runs = (query: { lane?: string; state?: string; cursor?: string; limit?: number } = {}) =>
    got<Page<RunAnswer>>(this.#http.GET('/api/v1/runs', { params: { query: given({ ...query, state: unchecked(query.state) }) } }));
  oneRun = (id: string) => got<RunAnswer>(this.#http.GET('/api/v1/runs/{run}', { params: { path: { run: id } } }));
  release = (id: string) => got<RunAnswer>(this.#http.POST('/api/v1/runs/{run}/release', { params: { path: { run: id } } }));
  journal = (query: { lane?: string; run?: string; record?: string; cursor?: string; limit?: number } = {}) =>
    gotAs<Page<JournalAnswer>>(this.#http.GET('/api/v1/journal', { params: { query: given(query) } }));
  /** All of them, however many pages they are. */
  holds = async (lane?: string): Promise<Page<HoldAnswer>> => {
    const items: HoldAnswer[] = [];
    for (let cursor: string | undefined; ; ) {
      const page: Page<HoldAnswer> = await gotAs<Page<HoldAnswer>>(this.#http.GET('/api/v1/holds', { params: { query: given({ lane, cursor }) } }));
      items.push(...page.items);
      if (page.next === null) return { items, next: null };
      cursor = page.next;
    }
  };
  /** Settles all open holds that ask this, alike. */
  settleAll = (question: string, choice: string, lane?: string) =>
    got<{ settled: number; skipped: number }>(
      this.#http.POST('/api/v1/holds/settle', { body: { question: unchecked(question), choice, ...(lane === undefined ? {} : { lane }) } }),
    );
  /** What taking a run back would do. */
  guests = (lane: string, query: { state?: GuestState; cursor?: string; limit?: number } = {}) =>
    gotAs<LaneGuestsAnswer>(this.#http.GET('/api/v1/lanes/{lane}/guests', { params: { path: { lane }, query: given(query) } }));
  settleGuest = (lane: string, guest: { pair: string; email: string }, as: 'sent' | 'again') =>
    gotAs<GuestAnswer>(this.#http.POST('/api/v1/lanes/{lane}/guests/{pair}/{email}/settle', { params: { path: { lane, ...guest } }, body: { as } }));
  foreseeUndo = (of: { run: string } | { entry: number }) =>
    gotAs<UndoAnswer>(
      'run' in of
        ? this.#http.GET('/api/v1/runs/{run}/undo', { params: { path: of } })
        : this.#http.GET('/api/v1/journal/{entry}/undo', { params: { path: { entry: String(of.entry) } } }),
    );
  undo = (of: { run: string } | { entry: number }) =>
    got<RunAnswer>(
      'run' in of
        ? this.#http.POST('/api/v1/runs/{run}/undo', { params: { path: of } })
        : this.#http.POST('/api/v1/journal/{entry}/undo', { params: { path: { entry: String(of.entry) } } }),
    );
  settle = (hold: string, choice: string) =>
    gotAs<HoldAnswer>(this.#http.POST('/api/v1/holds/{hold}/settle', { params: { path: { hold } }, body: { choice } }));

  /** The nouns that change, as they do, until the signal ends it or the connection breaks. The first is empty: "connected". */
  async *changes(signal: AbortSignal): AsyncGenerator<string[]> {
    const answer = await this.#stream('GET', '/changes', 'text/event-stream', { signal });
    for await (const { data } of events(answer)) yield JSON.parse(data) as string[];
  }

  /** An answer that is read as it comes. */
  async #stream(method: string, path: string, accept: string, more: { body?: unknown; signal?: AbortSignal | undefined } = {}): Promise<Response> {
    const { body, signal } = more;
    const headers = { accept, ...(body === undefined ? {} : { 'content-type': 'application/json' }) };
    const init = { method, headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }), ...(signal === undefined ? {} : { signal }) };
    const answer = await this.#ask(`${this.address}/api/v1${path}`, init);
    if (answer.ok) return answer;
    throw problemOf(answer.status, await answer.json().catch(() => null));
  }

  async #ask(input: string | Request, init: RequestInit): Promise<Response> {
    const headers = new Headers(input instanceof Request ? input.headers : init.headers);
    if (this.#token !== undefined) headers.set('authorization', `Bearer ${this.#token}`);
    try {
      return await this.#fetch(input, { ...init, headers });
    } catch (error) {
      if (init.signal?.aborted === true) throw error;
      throw new ServiceProblem(0, `Monsoon does not answer at ${this.address || 'this address'}; is it running?`);
    }
  }
}

const enc = encodeURIComponent;
/** Where the counts are as CSV, below the interface's root. */
export const countsPath = (ask: CountQuery): string => `/counts/export${search({ ...ask })}`;
