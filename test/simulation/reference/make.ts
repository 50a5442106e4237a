import { judgeEvent, OWN } from './judge.ts';
import { eventOf, fillsRecord, followed, type Link, linksOf, type Moment, showAll } from './links.ts';
import { type Fields, Unfit } from './maps.ts';
import { blankRecord, type ModelPair } from './pairs.ts';
import type { Run } from './run-state.ts';
import type { Values } from './values.ts';

/** Would the lane's own filter leave an event out again that is made so? */
export function ownFilter({ lane, look }: Run, values: Values): string | null {
  if (lane.direction === '->') return null;
  const { now } = look;
  return judgeEvent(look, { uid: '', values, marked: OWN, repeats: false, created: now, modified: now, silent: new Set(), rest: [] }, true);
}

/** One side of the pair is made: what was known of the one before it says nothing of this one. */
function beginAgain(run: Run, pair: ModelPair, links: Link[]): void {
  pair.seen = true;
  for (const known of ['merged', 'loose', 'redefined', 'unfit'] as const) delete pair[known];
  run.settle(pair, 'in sync');
  const keys = followed(links).map((l) => l.key);
  run.agree(pair, links, { settled: keys, before: null });
}

/** Makes an event for a pair; not one that the lane's own filter would leave out again. */
export function makeEvent(run: Run, pair: ModelPair, links: Link[]): unknown {
  const values = eventOf(links, showAll(links, run.end.records.get(pair.record!)!).values);
  const out = ownFilter(run, values);
  if (out !== null) return run.say(`${pair.record} ${pair.moment}`, out);
  const href = `new ${pair.record} ${pair.moment}`;
  run.end.events.set(href, values);
  pair.event = href;
  beginAgain(run, pair, links);
}

/** Makes a record of an event; false, with the reason said, where none can be made. */
export function makeRecord(run: Run, href: string, pair: ModelPair, moment: Moment): boolean {
  const { lane } = run;
  const links = linksOf(lane, moment);
  const event = run.events.get(href)!;
  let fields: Fields = { ...blankRecord, ...lane.defaults };
  try {
    for (const link of links) if (fillsRecord(link)) fields = { ...fields, ...link.take(fields, event.values[link.property] ?? null, true) };
  } catch (error) {
    if (!(error instanceof Unfit)) throw error;
    run.say(href, 'unfit value');
    return false;
  }
  if (lane.link !== null) fields[lane.link] = event.uid;
  const reason = run.judge(null, fields, moment, links);
  if (reason !== null && reason !== 'out of the window' && reason !== 'before the start line') {
    run.say(href, reason);
    return false;
  }
  const id = `new ${href}`;
  run.end.records.set(id, fields);
  Object.assign(pair, { record: id, moment: moment.name, event: href, uid: event.uid });
  if (!run.end.pairs.includes(pair)) run.end.pairs.push(pair);
  beginAgain(run, pair, links);
  return true;
}
