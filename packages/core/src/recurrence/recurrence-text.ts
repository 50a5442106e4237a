/**
 * How an event repeats, apart from when it begins: a value of its own, the same for whatever says the same. Dates are
 * days of the series' own clock, or `20261201T090000` where an occurrence begins at another time of the day than the
 * first; UNTIL is the last day.
 */
export interface Recurrence {
  /** recurrence rules, without `RRULE:` */
  rules: string[];
  added: string[];
  excluded: string[];
}

export const recurrenceLines = { rules: 'RRULE', added: 'RDATE', excluded: 'EXDATE' } as const;
export const recurrenceKinds = ['rules', 'added', 'excluded'] as const;

/** As one text, a line for each: the form in which it is compared, and kept. */
export const formatRecurrence = (recurrence: Recurrence): string | null =>
  recurrence.rules.length + recurrence.added.length === 0
    ? null
    : recurrenceKinds.flatMap((kind) => [...recurrence[kind]].sort().map((value) => `${recurrenceLines[kind]}:${value}`)).join('\n');

export function parseRecurrence(text: string | null): Recurrence {
  const recurrence: Recurrence = { rules: [], added: [], excluded: [] };
  for (const line of text?.split('\n') ?? []) {
    const at = line.indexOf(':');
    const kind = recurrenceKinds.find((k) => recurrenceLines[k] === line.slice(0, at));
    if (kind !== undefined) recurrence[kind].push(line.slice(at + 1));
  }
  return recurrence;
}

/** Is it how an event repeats? */
export const isRecurrence = (text: string): boolean => /^R(RULE|DATE):/.test(text);
