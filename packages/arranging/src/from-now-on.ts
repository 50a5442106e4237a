import { type Departure, departureChoices, type HoldQuestion, type LaneDefinition, type PropertyName, propertyNames } from '@monsoon/core/text';

const departures: Partial<Record<HoldQuestion, Departure>> = {
  'record deleted': 'recordDeleted',
  'filtered out': 'filteredOut',
  'date lost': 'dateLost',
  'event deleted': 'eventDeleted',
  'event cancelled': 'eventCancelled',
  'event filtered out': 'eventFilteredOut',
  'edited and deleted': 'editedAndDeleted',
};

type Ruled = Pick<LaneDefinition, 'conflicts' | 'departures'>;

/**
 * An answer to a question as a rule: what the lane would be if it were given from now on. A conflict makes a rule of
 * the properties it is about, and of no others.
 *
 * @param about the keys of the values that were asked about
 * @returns null where the question can be no rule, such as which of several events it is
 */
export function fromNowOn<L extends Ruled>(lane: L, question: HoldQuestion, choice: string, about: readonly string[]): L | null {
  if (question === 'conflict' && (choice === 'records win' || choice === 'calendar wins')) {
    const properties = about.filter((key): key is PropertyName => (propertyNames as readonly string[]).includes(key));
    if (properties.length === 0) return null;
    return {
      ...lane,
      conflicts: { ...lane.conflicts, fields: { ...lane.conflicts.fields, ...Object.fromEntries(properties.map((p) => [p, choice])) } },
    };
  }
  const departure = departures[question];
  if (departure === undefined || !(departureChoices[departure] as readonly string[]).includes(choice)) return null;
  return { ...lane, departures: { ...lane.departures, [departure]: choice } };
}
