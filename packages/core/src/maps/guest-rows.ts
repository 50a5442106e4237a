import type { Problem } from '../record/conditions.ts';
import type { Collection, Field, FieldType, GuestRow, RecordItem } from '../record/fields.ts';
import { sayNearest } from '../record/nearest.ts';
import type { Directory } from './convert.ts';
import type { GuestRowsMap, Taken } from './field-map.ts';
import type { Attendee } from './properties.ts';

/** The rows of a record are read and written as a field of it, which has this name. */
export const guestRowsField = ({ rows }: Pick<GuestRowsMap, 'rows'>): string => `guests in ${rows}`;

const replyOf = ({ values }: GuestRowsMap, { response }: Attendee): string | undefined => {
  const reply = response ?? 'needs action';
  return values === undefined ? reply : values[reply];
};

/** The guests of an event, for rows. */
export interface InvitedGuests {
  guests: readonly Attendee[];
  /** those of the last agreement, where a row keeps what a person changed in it since; undefined: nothing is kept */
  agreed: readonly Attendee[] | null | undefined;
  /** of the collection that the map looks them up in */
  directory: Directory | undefined;
}

/**
 * The rows as they should be for these guests. A row is never taken away: such lists also say who was invited
 * once.
 */
export function takeGuestRows(map: GuestRowsMap, record: RecordItem, { guests, agreed, directory }: InvitedGuests): Taken {
  const field = guestRowsField(map);
  const before = (record.fields[field] ?? []) as GuestRow[];
  const keyOf = (email: string | undefined) => email?.toLowerCase() ?? '';
  const invited = new Map(guests.map((g) => [keyOf(g.email), g]));
  const withReply = (row: GuestRow, response: string | undefined): GuestRow =>
    map.reply === undefined || response === undefined || row.response === response ? row : { ...row, response };
  const kept = before.map((row) => {
    const guest = invited.get(keyOf(row.email));
    const old = agreed?.find((g) => keyOf(g.email) === keyOf(row.email));
    const isNews = agreed === undefined || (guest === undefined) !== (old === undefined) || guest?.response !== old?.response;
    if (!isNews) return row;
    return withReply(row, guest === undefined ? map.uninvited : replyOf(map, guest));
  });
  const there = new Set(before.map((row) => keyOf(row.email)));
  const missing = [...invited].flatMap(([key, guest]) => (there.has(key) ? [] : [guest]));
  const unknown = missing.filter((g) => map.make !== true || (map.in !== undefined && directory?.byEmail.has(keyOf(g.email)) !== true));
  const made = missing
    .filter((g) => !unknown.includes(g))
    .map(
      (g): GuestRow => withReply({ email: g.email, ...(map.name === undefined || g.name === undefined ? {} : { name: g.name }) }, replyOf(map, g)),
    );
  const after = [...kept, ...made];
  const notes =
    unknown.length === 0 ? [] : [`without a row in ${map.rows}, so kept on the calendar alone: ${unknown.map((g) => g.email).join(', ')}`];
  const same = made.length === 0 && kept.every((row, i) => row === before[i]);
  return { fields: same ? {} : { [field]: after }, notes };
}

/** Every reason why rows of guests cannot be kept in these collections. */
export function checkGuestRows(map: GuestRowsMap, mayChange: boolean, collections: readonly Collection[], pointer: string): Problem[] {
  const inside = collections.find((c) => c.name === map.rows);
  const names = collections.map((c) => c.name);
  if (inside === undefined)
    return [
      {
        pointer: `${pointer}/rows`,
        reason: `there is no collection "${map.rows}"; there are ${names.join(', ')}${sayNearest(map.rows, names)}`,
      },
    ];
  const problems: Problem[] = [];
  const named = (where: keyof GuestRowsMap, types: readonly FieldType[], use: string, within: Collection = inside): void => {
    const name = (map[where] as string | undefined) ?? (within === inside ? undefined : 'email');
    if (name === undefined) return;
    const field = within.fields.find((f) => f.name === name);
    // Of the people, the address is only read.
    const reason =
      field === undefined ? missing(name, within) : unfit({ ...field, readOnly: within === inside && field.readOnly }, types, use, within);
    if (reason !== null) problems.push({ pointer: `${pointer}/${where}`, reason });
  };
  named('record', ['reference', 'text', 'long text', 'number'], 'cannot refer to a record');
  named(
    'guest',
    map.in === undefined ? ['text', 'long text', 'person'] : ['reference'],
    map.in === undefined ? 'holds no address' : 'refers to no person',
  );
  named('name', ['text', 'long text'], 'holds no name');
  named('reply', ['text', 'long text', 'choice'], 'cannot hold a reply');
  const people = map.in === undefined ? undefined : collections.find((c) => c.name === map.in);
  if (map.in !== undefined && people === undefined)
    problems.push({ pointer: `${pointer}/in`, reason: `there is no collection "${map.in}"; there are ${names.join(', ')}` });
  if (people !== undefined) named('email', ['text', 'long text', 'web address'], 'holds no address', people);
  if (map.email !== undefined && map.in === undefined)
    problems.push({ pointer: `${pointer}/email`, reason: 'email is the field with the address in the collection "in", which is not given' });
  const choices = inside.fields.find((f) => f.name === map.reply)?.choices;
  const given: [string, string][] = [
    ...Object.entries(map.values ?? {}).map(([reply, value]): [string, string] => [`values/${reply}`, value]),
    ...(map.uninvited === undefined ? [] : ([['uninvited', map.uninvited]] as [string, string][])),
  ];
  const [first] = given;
  if (map.reply === undefined && first !== undefined)
    problems.push({ pointer: `${pointer}/${first[0]}`, reason: 'there is no field for it: name one with reply' });
  for (const [where, value] of given)
    if (choices !== undefined && !choices.includes(value))
      problems.push({ pointer: `${pointer}/${where}`, reason: `"${value}" is no choice of "${map.reply}"; choices are ${choices.join(', ')}` });
  if (choices !== undefined && map.values === undefined)
    problems.push({ pointer: `${pointer}/values`, reason: `"${map.reply}" is a choice (${choices.join(', ')}), so say which of them each reply is` });
  if (map.make === true && !inside.may.create)
    problems.push({ pointer: `${pointer}/make`, reason: `${inside.label} does not let its records be made; set it to false` });
  if (map.reply !== undefined && !inside.may.change)
    problems.push({ pointer: `${pointer}/reply`, reason: `${inside.label} does not let its records be changed; leave the reply out` });
  if (map.reply === undefined && map.make !== true)
    problems.push({ pointer, reason: 'nothing would be written: name the field for the reply (reply: FIELD), or have rows made (make: true)' });
  if (!mayChange)
    problems.push({
      pointer,
      reason: 'this lane changes no records, and rows of guests belong to them; allow it with may: { records: { change: true } }',
    });
  return problems;
}

const missing = (name: string, { label, fields }: Collection): string => {
  const names = fields.map((f) => f.name);
  return `there is no field "${name}" in ${label}; there are ${names.join(', ')}${sayNearest(name, names)}`;
};

function unfit(field: Field, types: readonly FieldType[], use: string, { fields }: Collection): string | null {
  const fitting = fields.filter((f) => types.includes(f.type) && f.readOnly !== true).map((f) => f.name);
  const others = `fitting fields are ${fitting.join(', ') || '(none)'}`;
  if (!types.includes(field.type)) return `the field "${field.name}" is of type ${field.type}, which ${use}; ${others}`;
  return field.readOnly === true ? `the field "${field.name}" cannot be written; ${others}` : null;
}
