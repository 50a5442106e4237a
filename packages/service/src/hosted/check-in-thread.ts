import { readCalendarObject, UnstorableObject } from '@monsoon/core';
import { loadZones } from '../zones/system-zones.ts';
import type { Checked } from './check-object.ts';

const zones = loadZones();

/** What a thread does for `checkObject`: an error would lose what it is on its way. */
export function checkInThread(text: string): Checked {
  try {
    return { object: readCalendarObject(text, zones) };
  } catch (error) {
    if (error instanceof UnstorableObject) return { refused: error.message, precondition: error.precondition };
    throw error;
  }
}
