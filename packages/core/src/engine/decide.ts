/**
 * The decision table: what becomes of one moment of one record, by what is known of its pair and of both sides.
 * Everything that a run does with a record that is or was paired is decided here; how it is done is elsewhere.
 */

/** `none`: never paired; `removed`: its event was taken away by rule; `unlinked`: no longer followed. */
export const pairFacts = ['none', 'followed', 'unlinked', 'removed'] as const;
export type PairFact = (typeof pairFacts)[number];

/** `left the lane`: it lost its date, or a filter or its privacy keeps it out; `left out`: the window, the start line and the like. */
export const recordFacts = ['there', 'gone', 'left the lane', 'left out'] as const;
export type RecordFact = (typeof recordFacts)[number];

/**
 * `never there`: no event was ever confirmed; `of another lane`: that lane's mark is on it; `left the lane`: the lane's
 * conditions on events keep it out.
 */
export const eventFacts = ['never there', 'there', 'gone', 'unreadable', 'of another lane', 'cancelled', 'left the lane'] as const;
export type EventFact = (typeof eventFacts)[number];

export const decisions = [
  'nothing',
  'leave out',
  'find or create',
  'merge',
  'say why it cannot be read',
  'unlink for another lane',
  'let go of both',
  'depart: record deleted',
  'depart: record left',
  'depart: event deleted',
  'depart: event cancelled',
  'depart: event left',
] as const;
export type Decision = (typeof decisions)[number];

type Table = Record<PairFact, Record<RecordFact, Record<EventFact, Decision>>>;

/** Whatever the event is like. */
const always = (decision: Decision, but: Partial<Record<EventFact, Decision>> = {}): Record<EventFact, Decision> => ({
  'never there': decision,
  there: decision,
  gone: decision,
  unreadable: decision,
  'of another lane': decision,
  cancelled: decision,
  'left the lane': decision,
  ...but,
});

const unpaired: Table['none'] = {
  there: always('find or create'),
  gone: always('nothing'),
  'left the lane': always('leave out'),
  'left out': always('leave out'),
};

export const table: Table = {
  none: unpaired,
  removed: unpaired,
  unlinked: { there: always('nothing'), gone: always('nothing'), 'left the lane': always('nothing'), 'left out': always('nothing') },
  followed: {
    there: {
      'never there': 'find or create',
      there: 'merge',
      gone: 'depart: event deleted',
      unreadable: 'say why it cannot be read',
      'of another lane': 'unlink for another lane',
      cancelled: 'depart: event cancelled',
      'left the lane': 'depart: event left',
    },
    gone: always('depart: record deleted', { gone: 'let go of both' }),
    'left the lane': always('depart: record left', { gone: 'let go of both' }),
    'left out': always('leave out'),
  },
};

export const decide = (facts: { pair: PairFact; record: RecordFact; event: EventFact }): Decision => table[facts.pair][facts.record][facts.event];
