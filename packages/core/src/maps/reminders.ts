/**
 * A reminder as a value: minutes before the start, as a number; or, for one by mail or before the end, a text such as
 * `mail 60`, `10 before end`, `mail 10 before end`.
 */
export type Reminder = number | string;

export interface ReminderParts {
  minutes: number;
  by: 'popup' | 'mail';
  before: 'start' | 'end';
}

/** Longest time before, in minutes: four weeks. */
export const LONGEST_REMINDER = 40_320;

/** The value that stands for a reminder; the same reminder is the same value. */
export const reminderOf = ({ minutes, by, before }: ReminderParts): Reminder =>
  by === 'popup' && before === 'start' ? minutes : `${by === 'mail' ? 'mail ' : ''}${minutes}${before === 'end' ? ' before end' : ''}`;

const FORM = /^(?:(mail|popup)\s+)?(\d{1,6})(?:\s*min(?:utes)?)?(?:\s+before\s+(start|end))?$/i;

/** The reminder that a text or a number stands for; null where it stands for none. */
export function readReminder(value: Reminder): ReminderParts | null {
  const [, by, minutes, before] = FORM.exec(String(value).trim()) ?? [];
  if (minutes === undefined || Number(minutes) > LONGEST_REMINDER) return null;
  return { minutes: Number(minutes), by: by?.toLowerCase() === 'mail' ? 'mail' : 'popup', before: before?.toLowerCase() === 'end' ? 'end' : 'start' };
}

/** Popups before long times, mails after popups: an order for lists. */
export const inOrder = (reminders: readonly Reminder[]): Reminder[] =>
  [...new Set(reminders)].sort((a, b) => {
    if (typeof a === 'number' && typeof b === 'number') return a - b;
    if (typeof a !== typeof b) return typeof a === 'number' ? -1 : 1;
    return String(a) < String(b) ? -1 : 1;
  });
