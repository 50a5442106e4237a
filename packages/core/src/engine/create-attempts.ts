import { certain } from '../certain.ts';
import type { Link } from '../lane/links.ts';
import type { PropertyValue } from '../maps/properties.ts';
import { canonical, type RecordItem } from '../record/fields.ts';
import { type LaneContext, linkContext } from './context.ts';
import type { CreateCandidates } from './gathered.ts';
import { momentLinks, showAll } from './judge.ts';
import { momentOfEvents } from './make-record.ts';
import type { Pair } from './pair.ts';

/** More candidates than there are other attempts to take them: a person is asked, and looks at no more than these. */
const SPARE = 20;
/** A part of what an attempt said by which its record is known, though a person may have changed the rest. */
const telling = ['title', 'when'];

/** Attempts for one moment, by what they said. */
interface ByMoment {
  links: Link[];
  /** by all that was said */
  whole: Map<string, Pair[]>;
  /** by title, and by time */
  parts: Map<string, Pair[]>;
}

/**
 * Attempts to make records whose outcome is unknown, and the records that may be their results: by the link, or by what they say;
 * made since the attempt, as far as two clocks can tell. They are found by what they say, so that a table of any size is compared
 * with any number of attempts in one pass.
 */
export class CreateAttempts {
  readonly #context: LaneContext;
  readonly #pairs: readonly Pair[];
  readonly #byUid = new Map<string, Pair[]>();
  readonly #moments = new Map<string, ByMoment>();
  readonly #found: Map<string, CreateCandidates>;
  readonly #most: number;

  /** @param pairs with what was attempted as their baseline */
  constructor(context: LaneContext, pairs: readonly Pair[]) {
    this.#context = context;
    this.#pairs = pairs;
    this.#found = new Map(pairs.map((p) => [p.id, { sure: [], maybe: [] }]));
    this.#most = pairs.length + SPARE;
    for (const pair of pairs) {
      if (context.definition.link !== null) enter(this.#byUid, pair.uid, pair);
      else this.#index(pair);
    }
  }

  #index(pair: Pair): void {
    const { moments } = this.#context.definition;
    const moment = moments.find((m) => m.name === pair.moment) ?? momentOfEvents(this.#context);
    const links = momentLinks(this.#context, moment).filter((l) => l.direction !== 'once');
    const of = this.#moments.get(moment.name) ?? { links, whole: new Map(), parts: new Map() };
    this.#moments.set(moment.name, of);
    const said = pair.baseline?.record ?? {};
    enter(of.whole, this.#wholeKey(links, said), pair);
    for (const key of this.#partKeys(links, said)) enter(of.parts, key, pair);
  }

  #meaning = (link: Link, values: Record<string, PropertyValue | undefined>): unknown =>
    link.meaning(values[link.key] ?? null, linkContext(this.#context));
  #wholeKey = (links: readonly Link[], values: Record<string, PropertyValue | undefined>): string =>
    canonical(links.map((l) => this.#meaning(l, values)));
  #partKeys = (links: readonly Link[], values: Record<string, PropertyValue | undefined>): string[] =>
    links.filter((l) => telling.includes(l.key) && values[l.key] != null).map((l) => `${l.key} ${canonical(this.#meaning(l, values))}`);

  /** Could the record be the result of an attempt? */
  mayBe(record: RecordItem): boolean {
    const { link } = this.#context.definition;
    if (link !== null) return this.#byUid.has(String(record.fields[link] ?? ''));
    return [...this.#moments.values()].some((of) => {
      const { values } = showAll(of.links, record, this.#context);
      return this.#partKeys(of.links, values).some((key) => of.parts.has(key)) || of.whole.has(this.#wholeKey(of.links, values));
    });
  }

  /** Notes a record as a candidate. @param isTaken does a pair have it for that moment? */
  note(record: RecordItem, isTaken: (moment: string) => boolean): void {
    const { link } = this.#context.definition;
    if (link !== null) {
      for (const pair of this.#byUid.get(String(record.fields[link] ?? '')) ?? []) if (!isTaken(pair.moment)) this.#add(pair, 'sure', record);
      return;
    }
    for (const of of this.#moments.values()) {
      const { values } = showAll(of.links, record, this.#context);
      const fits = (pair: Pair) => !isTaken(pair.moment) && this.#isMadeSince(record, pair);
      const sure = new Set((of.whole.get(this.#wholeKey(of.links, values)) ?? []).filter(fits));
      for (const pair of sure) this.#add(pair, 'sure', record);
      const maybe = new Set<Pair>();
      for (const key of this.#partKeys(of.links, values)) {
        const pairs = of.parts.get(key) ?? [];
        for (const pair of pairs) if (fits(pair) && !sure.has(pair)) maybe.add(pair);
        // Who has as many as can matter is not looked for any more.
        const left = pairs.filter((p) => certain(this.#found.get(p.id), 'each attempt has an entry').maybe.length < this.#most);
        if (left.length < pairs.length) of.parts.set(key, left);
        if (left.length === 0) of.parts.delete(key);
      }
      for (const pair of maybe) this.#add(pair, 'maybe', record);
    }
  }

  #isMadeSince = ({ created }: RecordItem, { tried }: Pair): boolean =>
    created === undefined || tried === null || Date.parse(created) >= Date.parse(tried) - clockSlack(this.#context);

  #add(pair: Pair, likeness: keyof CreateCandidates, record: RecordItem): void {
    const list = certain(this.#found.get(pair.id), 'each attempt has an entry')[likeness];
    if (list.length < this.#most) list.push(record);
  }

  /**
   * The candidates of each attempt. Attempts that said the same are what the same records may have come of. Where there are no more
   * records than such attempts, each takes one: which takes which is no matter, because they say the same. What is surely one
   * attempt's is not perhaps another's.
   */
  candidates(): ReadonlyMap<string, CreateCandidates> {
    const result = new Map<string, CreateCandidates>();
    const taken = new Set<string>();
    const rivals = new Map<string, Set<string>>();
    for (const [pair, { sure }] of this.#found) for (const { id } of sure) rivals.set(id, (rivals.get(id) ?? new Set()).add(pair));
    const shares = new Map<string, boolean>();
    for (const { id } of [...this.#pairs].sort((a, b) => (a.id < b.id ? -1 : 1))) {
      const { sure, maybe } = certain(this.#found.get(id), 'each attempt has an entry');
      const key = sure.map((r) => r.id).join('\n');
      const isShared = shares.get(key) ?? this.#isShared(sure, rivals);
      shares.set(key, isShared);
      const free = sure.filter((r) => !taken.has(r.id));
      const own = isShared ? free.slice(0, 1) : free;
      for (const record of own) if (own.length === 1) taken.add(record.id);
      result.set(id, { sure: own, maybe });
    }
    if (taken.size > 0) for (const one of result.values()) one.maybe = one.maybe.filter((r) => !taken.has(r.id));
    return result;
  }

  /** Do several attempts want these, and are there enough of them for all the records that they want? */
  #isShared(sure: readonly RecordItem[], rivals: ReadonlyMap<string, ReadonlySet<string>>): boolean {
    const wanting = new Set(sure.flatMap(({ id }) => [...(rivals.get(id) ?? [])]));
    if (wanting.size < 2) return false;
    const wanted = new Set<string>();
    for (const pair of wanting) for (const { id } of certain(this.#found.get(pair), 'each attempt has an entry').sure) wanted.add(id);
    return wanted.size <= wanting.size;
  }
}

const enter = (map: Map<string, Pair[]>, key: string, pair: Pair): void => {
  const pairs = map.get(key);
  if (pairs === undefined) map.set(key, [pair]);
  else pairs.push(pair);
};

/** Milliseconds by which a system's clock may be behind ours. */
const clockSlack = (context: LaneContext): number => Math.max(context.definition.conflicts.tolerance, 600) * 1000;
