import { expand as expandDate } from '../ical/dates.ts';
import { sayDay } from '../time/format-when.ts';
import { secondsOf } from './clock-texts.ts';

/** The recurrence-id of an occurrence: a day, an instant, or a time without zone. */
const ID = /^\d{8}(T\d{6}Z?)?$/;

/** Where an event stands: its calendar object, and which occurrence of it; null: the object as a whole. */
export interface Place {
  object: string;
  id: string | null;
}

/** Addresses are percent-encoded, so "#" stands in none of them (RFC 3986, 3.5). A UID may hold one, but hardly with such an end. */
export function placeOf(name: string): Place {
  const at = name.lastIndexOf('#');
  const id = at < 0 ? '' : name.slice(at + 1);
  return ID.test(id) ? { object: name.slice(0, at), id } : { object: name, id: null };
}

/** The address, or the UID, of an occurrence. */
export const placeName = (object: string, id: string): string => `${object}#${id}`;

/** The original start that names an occurrence, in seconds since 1970, or on a clock without zone; null: it is no occurrence. */
export function originalStart(name: string): number | null {
  const { id } = placeOf(name);
  return id === null ? null : secondsOf(expandDate(id).replace('Z', ''));
}

/** A recurrence-id as people write it: `15 Dec 2026 19:00 UTC`. */
export function sayOriginalStart(id: string): string {
  const day = sayDay(id.replace(/^(....)(..)(..).*$/, '$1-$2-$3'));
  return id.length === 8 ? day : `${day} ${id.slice(9, 11)}:${id.slice(11, 13)}${id.endsWith('Z') ? ' UTC' : ''}`;
}
