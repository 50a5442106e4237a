import { type CalendarObject, type Precondition, readCalendarObject, UnstorableObject, type ZoneTable } from '@monsoon/core';
import { besides, inThread, TooMuchWork } from '@monsoon/systems';

/** Characters of a text from which on it is read in a thread. */
export const HEAVY = 100_000;
/** Seconds for one object, with the start of a thread. */
const LONGEST = 10;

export type Checked = { object: CalendarObject } | { refused: string; precondition: Precondition };

/** Reads an object before it is stored. @throws UnstorableObject */
export async function checkObject(text: string, zones: ZoneTable): Promise<CalendarObject> {
  if (text.length <= HEAVY) return readCalendarObject(text, zones);
  try {
    const checked = await inThread<Checked>(besides(import.meta.url, 'check-in-thread'), 'checkInThread', text, LONGEST);
    if ('object' in checked) return checked.object;
    throw new UnstorableObject(checked.precondition, checked.refused);
  } catch (error) {
    if (error instanceof TooMuchWork) throw new UnstorableObject('valid-calendar-data', error.message);
    throw error;
  }
}
