import { createParser } from 'eventsource-parser';
import type {
  ActivityAnswer,
  AuditAnswer,
  CalendarAnswer,
  CallAnswer,
  CheckAnswer,
  ColleagueAnswer,
  CollectionAnswer,
  CountedAnswer,
  DraftAnswer,
  FailureGroup,
  ForecastAnswer,
  HealthAnswer,
  HoldAnswer,
  HookAnswer,
  ItemAnswer,
  ItemDetail,
  ItemOrder,
  JournalAnswer,
  KindAnswer,
  LaneAnswer,
  LaneDraftAnswer,
  LaneFileAnswer,
  LaneFileCheck,
  MeAnswer,
  Page,
  PastAudit,
  PausedAnswer,
  PreviewAnswer,
  ProbeStepAnswer,
  ProblemDetails,
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
  TellMe,
  TodayAnswer,
  TokenAnswer,
  TokenScope,
  TrackingAnswer,
  TryAnswer,
  UndoAnswer,
  VersionAnswer,
} from './index.ts';

/** The service said no, or did not answer. The message is for people. */
export class ServiceProblem extends Error {
  override name = 'ServiceProblem';
  readonly status: number;
  readonly problems: { pointer: string; reason: string }[];

  constructor(status: number, message: string, problems: { pointer: string; reason: string }[] = []) {
    super(message);
    this.status = status;
    this.problems = problems;
  }
}

export interface ClientOptions {
  /** where the service is; empty in a page that it served itself */
  address: string;
  token?: string | undefined;
  fetch?: typeof fetch;
}

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

type Query = Record<string, string | number | boolean | undefined>;

/** Every call of the HTTP interface that the console and the command line make. */
export class MonsoonClient {
  readonly address: string;
  readonly #token: string | undefined;
  readonly #fetch: typeof fetch;

  constructor(options: ClientOptions) {
    this.address = options.address.replace(/\/$/, '');
    this.#token = options.token;
    this.#fetch = options.fetch ?? ((input, init) => fetch(input, init));
  }

  signIn = (email: string, password: string) => this.#call<MeAnswer>('POST', '/session', { email, password });
  signInWays = () => this.#call<{ provider: string | null }>('GET', '/session/ways');
  signOut = () => this.#call<void>('DELETE', '/session');
  me = () => this.#call<MeAnswer>('GET', '/session');
  tokens = () => this.#call<Page<TokenAnswer>>('GET', '/tokens');
  makeToken = (name: string, may: TokenScope, days: number | null = null) =>
    this.#call<TokenAnswer & { token: string }>('POST', '/tokens', { name, may, days });
  withdrawToken = (id: string) => this.#call<void>('DELETE', `/tokens/${enc(id)}`);
  changePassword = (current: string, password: string) => this.#call<void>('PUT', '/session/password', { current, password });
  sessions = () => this.#call<Page<SessionAnswer>>('GET', '/sessions');
  endSession = (id: string) => this.#call<void>('DELETE', `/sessions/${enc(id)}`);

  people = () => this.#call<Page<ColleagueAnswer>>('GET', '/people');
  addPerson = (person: { email: string; name: string; role: Role; password?: string }) => this.#call<ColleagueAnswer>('POST', '/people', person);
  /** @param person an address or an id */
  changePerson = (
    person: string,
    change: { name?: string; role?: Role; password?: string; disabled?: boolean; unlock?: boolean; provider?: boolean },
  ) => this.#call<ColleagueAnswer>('PATCH', `/people/${enc(person)}`, change);
  removePerson = (person: string) => this.#call<void>('DELETE', `/people/${enc(person)}`);
  /** @param email null: nobody but administrators arranges it */
  setOwner = (lane: string, email: string | null) => this.#call<LaneAnswer>('PUT', `/lanes/${enc(lane)}/owner`, { email });
  activity = (query: { by?: string; lane?: string; cursor?: string; limit?: number } = {}) =>
    this.#call<Page<ActivityAnswer>>('GET', `/activity${search(query)}`);

  /** Whether everything is paused; null: no. */
  paused = () => this.#call<PausedAnswer | null>('GET', '/pause');
  pauseEverything = (why: string) => this.#call<PausedAnswer>('PUT', '/pause', { why });
  resumeEverything = () => this.#call<void>('DELETE', '/pause');

  settings = () => this.#call<Settings>('GET', '/settings');
  changeSettings = (settings: unknown) => this.#call<Settings>('PUT', '/settings', settings);
  reseal = () => this.#call<{ resealed: number }>('POST', '/settings/reseal');
  told = () => this.#call<TellMe>('GET', '/session/told');
  tellMe = (told: TellMe) => this.#call<TellMe>('PUT', '/session/told', told);
  webhooks = () => this.#call<Page<HookAnswer>>('GET', '/webhooks');
  /** @returns with the secret, which is shown this once */
  addWebhook = (hook: { name: string; url: string; occasions: string[] }) => this.#call<HookAnswer & { secret: string }>('POST', '/webhooks', hook);
  testWebhook = (id: string) => this.#call<HookAnswer>('POST', `/webhooks/${enc(id)}/test`);
  removeWebhook = (id: string) => this.#call<void>('DELETE', `/webhooks/${enc(id)}`);

  failures = (lane: string) => this.#call<Page<FailureGroup>>('GET', `/lanes/${enc(lane)}/failures`);
  /** Tries again what failed, for one reason or for any. */
  retry = (lane: string, what: { reason?: string; condition?: string } = {}) => this.#call<RunAnswer>('POST', `/lanes/${enc(lane)}/retry`, what);
  pastAudits = (lane: string) => this.#call<Page<PastAudit>>('GET', `/lanes/${enc(lane)}/audits`);
  counts = (ask: CountQuery) => this.#call<CountedAnswer>('GET', `/counts${search({ ...ask })}`);
  /** The same as CSV. */
  countsCsv = async (ask: CountQuery): Promise<string> => (await this.#send('GET', countsPath(ask), undefined, { accept: 'text/csv' })).text();
  /** The journal as text, piece by piece. */
  async *exportJournal(ask: { format: 'csv' | 'json'; lane?: string; run?: string; since?: string; values?: boolean }): AsyncGenerator<string> {
    const { values, ...rest } = ask;
    const answer = await this.#send('GET', `/journal/export${search({ ...rest, ...(values === true ? { values: 'true' } : {}) })}`, undefined, {
      accept: '*/*',
    });
    const decoder = new TextDecoder();
    for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) yield decoder.decode(piece, { stream: true });
  }

  health = () => this.#call<HealthAnswer>('GET', '/health');
  today = () => this.#call<TodayAnswer>('GET', '/today');

  systems = () => this.#call<Page<SystemAnswer>>('GET', '/systems');
  system = (slug: string) => this.#call<SystemAnswer>('GET', `/systems/${enc(slug)}`);
  connect = (system: { slug: string; name: string; kind: string; settings: unknown; secrets: unknown }) =>
    this.#call<SystemAnswer>('POST', '/systems', system);
  changeSystem = (slug: string, change: { name?: string; settings?: unknown; secrets?: unknown }) =>
    this.#call<SystemAnswer>('PATCH', `/systems/${enc(slug)}`, change);
  disconnect = (slug: string) => this.#call<void>('DELETE', `/systems/${enc(slug)}`);
  checkSystem = (slug: string) => this.#call<CheckAnswer>('POST', `/systems/${enc(slug)}/check`);
  collections = (slug: string) => this.#call<Page<CollectionAnswer>>('GET', `/systems/${enc(slug)}/collections`);
  kinds = () => this.#call<Page<KindAnswer>>('GET', '/kinds');
  /** Checks a connected system, or one that is about to be; hears each step as it comes. */
  async checkLive(
    what: string | { kind: string; settings: unknown; secrets: unknown },
    heard: (step: ProbeStepAnswer) => void,
    signal?: AbortSignal,
  ): Promise<CheckAnswer> {
    const [path, body] = typeof what === 'string' ? [`/systems/${enc(what)}/check`, undefined] : ['/systems/check', what];
    const answer = await this.#send('POST', path, body, { accept: 'text/event-stream' }, signal);
    for await (const { event, data } of events(answer)) {
      if (event === 'step') heard(JSON.parse(data) as ProbeStepAnswer);
      if (event === 'done') return JSON.parse(data) as CheckAnswer;
    }
    throw new ServiceProblem(0, 'the check broke off: Monsoon ended or was restarted; check again');
  }
  trySystem = (slug: string) => this.#call<TryAnswer>('POST', `/systems/${enc(slug)}/try`);
  calls = (slug: string) => this.#call<Page<CallAnswer>>('GET', `/systems/${enc(slug)}/calls`);
  /** @returns where a person consents */
  authorise = (slug: string, back = '/systems') => this.#call<{ url: string }>('POST', `/systems/${enc(slug)}/consent`, { back });
  tracking = (slug: string, collection: string) => this.#call<TrackingAnswer>('GET', `/systems/${enc(slug)}/tracking/${enc(collection)}`);
  track = (slug: string, collection: string, on: boolean) =>
    this.#call<TrackingAnswer>(on ? 'POST' : 'DELETE', `/systems/${enc(slug)}/tracking/${enc(collection)}`);
  changeCalendar = (slug: string, change: { calendar: string; name?: string; colour?: string }) =>
    this.#call<CalendarAnswer>('PATCH', `/systems/${enc(slug)}/calendars`, change);
  tryMail = (slug: string, to: string) => this.#call<void>('POST', `/systems/${enc(slug)}/mail`, { to });
  draftDescriptor = (document: unknown) => this.#call<DraftAnswer>('POST', '/descriptors/draft', { document });
  descriptorSchema = () => this.#call<object>('GET', '/descriptors/schema');
  calendars = (slug: string) => this.#call<Page<CalendarAnswer>>('GET', `/systems/${enc(slug)}/calendars`);
  makeCalendar = (slug: string, name: string, colour: string | null, holds: 'events' | 'tasks' = 'events') =>
    this.#call<CalendarAnswer>('POST', `/systems/${enc(slug)}/calendars`, { name, colour, holds });

  lanes = () => this.#call<Page<LaneAnswer>>('GET', '/lanes');
  lane = (slug: string) => this.#call<LaneAnswer>('GET', `/lanes/${enc(slug)}`);
  makeLane = (slug: string, definition: unknown, start = true) => this.#call<LaneAnswer>('POST', '/lanes', { slug, definition, start });
  /** @param version the version that was edited: somebody else's newer one is not overwritten */
  changeLane = (slug: string, version: number, definition: unknown) =>
    this.#call<LaneAnswer>('PUT', `/lanes/${enc(slug)}`, definition, { 'if-match': `"${version}"` });
  removeLane = (slug: string) => this.#call<void>('DELETE', `/lanes/${enc(slug)}`);
  pause = (slug: string) => this.#call<LaneAnswer>('POST', `/lanes/${enc(slug)}/pause`);
  resume = (slug: string) => this.#call<LaneAnswer>('POST', `/lanes/${enc(slug)}/resume`);
  /** What stopping would do with what the lane made. */
  foreseeStop = (slug: string, events: StopChoice) => this.#call<StopForecast>('GET', `/lanes/${enc(slug)}/stop${search({ events })}`);
  stopLane = (slug: string, events: StopChoice) => this.#call<LaneAnswer>('POST', `/lanes/${enc(slug)}/stop`, { events });
  /** @param definition what the lane would be instead */
  forecast = (slug: string, definition?: unknown) =>
    this.#call<ForecastAnswer>('POST', `/lanes/${enc(slug)}/forecast`, definition === undefined ? {} : { definition });
  audit = (slug: string) => this.#call<AuditAnswer>('POST', `/lanes/${enc(slug)}/audit`);
  run = (slug: string, options: { sweep?: boolean; records?: string[]; hrefs?: string[] } = {}) =>
    this.#call<RunAnswer>('POST', `/lanes/${enc(slug)}/runs`, options);
  items = (slug: string, query: { search?: string; state?: string; order?: ItemOrder; descending?: boolean; cursor?: string; limit?: number } = {}) =>
    this.#call<Page<ItemAnswer>>('GET', `/lanes/${enc(slug)}/items${search(query)}`);
  item = (slug: string, recordId: string, moment?: string) =>
    this.#call<ItemDetail>('GET', `/lanes/${enc(slug)}/items/${enc(recordId)}${search({ moment })}`);
  /** Follows again what the lane has unlinked: a record by its id, an event without one by its address. */
  follow = (slug: string, item: string) => this.#call<RunAnswer>('POST', `/lanes/${enc(slug)}/items/${enc(item)}/follow`);
  why = (slug: string, item: string) => this.#call<ItemDetail>('GET', `/lanes/${enc(slug)}/why${search({ item })}`);

  sample = (system: string, collection: string) => this.#call<SampleAnswer>('GET', `/systems/${enc(system)}/collections/${enc(collection)}/sample`);
  starters = () => this.#call<Page<StarterAnswer>>('GET', '/starters');
  /** A lane for two sides, as the fields found suggest it. */
  suggest = (ask: {
    records: { system: string; collection: string };
    calendar?: { system: string; calendar: string };
    direction?: string;
    starter?: string;
    zone?: string;
  }) => this.#call<SuggestAnswer>('POST', '/lanes/suggest', ask);
  /** What a lane that is being arranged would do with what is there now. */
  preview = (ask: {
    definition: object;
    lane?: string;
    show?: string[];
    edit?: { record: string; moment: string; property: string; value: string };
  }) => this.#call<PreviewAnswer>('POST', '/lanes/preview', ask);
  drafts = () => this.#call<Page<LaneDraftAnswer>>('GET', '/drafts');
  draft = (id: string) => this.#call<LaneDraftAnswer>('GET', `/drafts/${enc(id)}`);
  makeDraft = (draft: { slug: string; lane?: string; definition: object }) => this.#call<LaneDraftAnswer>('POST', '/drafts', draft);
  /** @param version the saving that was edited */
  saveDraft = (id: string, draft: { slug?: string; version: number; definition: object }) =>
    this.#call<LaneDraftAnswer>('PUT', `/drafts/${enc(id)}`, draft);
  dropDraft = (id: string) => this.#call<void>('DELETE', `/drafts/${enc(id)}`);
  laneSchema = () => this.#call<object>('GET', '/schemas/lane');
  /** Findings about a lane file, with their lines, and what it would change. */
  checkLaneFile = (slug: string, text: string) => this.#call<LaneFileCheck>('POST', '/lane-files/check', { slug, text });
  /** @param version the version that was looked at; 0: the lane is new */
  applyLaneFile = (slug: string, text: string, options: { start?: boolean; version?: number } = {}) =>
    this.#call<LaneAnswer>('POST', '/lane-files', { slug, text, ...options });
  laneFile = (slug: string, version?: number) => this.#call<LaneFileAnswer>('GET', `/lanes/${enc(slug)}/file${search({ version })}`);
  versions = (slug: string) => this.#call<Page<VersionAnswer>>('GET', `/lanes/${enc(slug)}/versions`);

  runs = (query: { lane?: string; state?: string; cursor?: string; limit?: number } = {}) =>
    this.#call<Page<RunAnswer>>('GET', `/runs${search(query)}`);
  oneRun = (id: string) => this.#call<RunAnswer>('GET', `/runs/${enc(id)}`);
  release = (id: string) => this.#call<RunAnswer>('POST', `/runs/${enc(id)}/release`);
  journal = (query: { lane?: string; run?: string; record?: string; cursor?: string; limit?: number } = {}) =>
    this.#call<Page<JournalAnswer>>('GET', `/journal${search(query)}`);
  /** All of them, however many pages they are. */
  holds = async (lane?: string): Promise<Page<HoldAnswer>> => {
    const items: HoldAnswer[] = [];
    for (let cursor: string | undefined; ; ) {
      const page = await this.#call<Page<HoldAnswer>>('GET', `/holds${search({ lane, cursor })}`);
      items.push(...page.items);
      if (page.next === null) return { items, next: null };
      cursor = page.next;
    }
  };
  /** Settles all open holds that ask this, alike. */
  settleAll = (question: string, choice: string, lane?: string) =>
    this.#call<{ settled: number; skipped: number }>('POST', '/holds/settle', { question, choice, ...(lane === undefined ? {} : { lane }) });
  /** What taking a run back would do. */
  foreseeUndo = (of: { run: string } | { entry: number }) => this.#call<UndoAnswer>('GET', undoPath(of));
  undo = (of: { run: string } | { entry: number }) => this.#call<RunAnswer>('POST', undoPath(of));
  settle = (hold: string, choice: string) => this.#call<HoldAnswer>('POST', `/holds/${enc(hold)}/settle`, { choice });

  /** The nouns that change, as they do, until the signal ends it or the connection breaks. The first is empty: "connected". */
  async *changes(signal: AbortSignal): AsyncGenerator<string[]> {
    const answer = await this.#send('GET', '/changes', undefined, { accept: 'text/event-stream' }, signal);
    for await (const { data } of events(answer)) yield JSON.parse(data) as string[];
  }

  async #call<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<T> {
    const answer = await this.#send(method, path, body, headers);
    return (answer.status === 204 ? undefined : await answer.json()) as T;
  }

  async #send(method: string, path: string, body?: unknown, headers: Record<string, string> = {}, signal?: AbortSignal): Promise<Response> {
    const all: Record<string, string> = { accept: 'application/json', ...headers };
    if (this.#token !== undefined) all['authorization'] = `Bearer ${this.#token}`;
    if (body !== undefined) all['content-type'] = 'application/json';
    let answer: Response;
    try {
      answer = await this.#fetch(`${this.address}/api/v1${path}`, {
        method,
        headers: all,
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        ...(signal === undefined ? {} : { signal }),
      });
    } catch (error) {
      if (signal?.aborted) throw error;
      throw new ServiceProblem(0, `Monsoon does not answer at ${this.address || 'this address'}; is it running?`);
    }
    if (answer.ok) return answer;
    const problem = (await answer.json().catch(() => ({}))) as Partial<ProblemDetails>;
    throw new ServiceProblem(answer.status, problem.detail ?? `the service answered ${answer.status}`, problem.problems);
  }
}

/** The server-sent events of an answer, as they come. */
async function* events(answer: Response): AsyncGenerator<{ event: string | undefined; data: string }> {
  const arrived: { event: string | undefined; data: string }[] = [];
  const parser = createParser({ onEvent: ({ event, data }) => arrived.push({ event, data }) });
  const decoder = new TextDecoder();
  for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(decoder.decode(piece, { stream: true }));
    while (arrived.length > 0) yield arrived.shift()!;
  }
}

const enc = encodeURIComponent;
/** Where the counts are as CSV, below the interface's root. */
export const countsPath = (ask: CountQuery): string => `/counts/export${search({ ...ask })}`;
const undoPath = (of: { run: string } | { entry: number }) => ('run' in of ? `/runs/${enc(of.run)}/undo` : `/journal/${of.entry}/undo`);

function search(query: Query): string {
  const given = Object.entries(query).filter((e): e is [string, string | number] => e[1] !== undefined);
  return given.length === 0 ? '' : `?${new URLSearchParams(Object.fromEntries(given.map(([k, v]) => [k, String(v)])))}`;
}
