import { parseJoin } from './join.ts';
import { responses } from './properties.ts';
import { everyNames, parts } from './recurrence-maps.ts';
import { repliesForms } from './replies.ts';

/** Is this the shape of a field map? Null when it is, else what is wrong. */
export function checkMapShape(value: unknown): string | null {
  const kinds = `${mapKinds.slice(0, -1).join(', ')} and ${mapKinds.at(-1)}`;
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return `is an object with one of ${kinds}`;
  const map = value as Record<string, unknown>;
  const given = mapKinds.filter((k) => k in map);
  const [kind] = given;
  if (kind === undefined || given.length !== 1) return `has exactly one of ${kinds}`;
  const more = {
    copy: [],
    join: ['edit'],
    fixed: [],
    table: ['values'],
    words: ['choose'],
    people: ['in', 'email'],
    page: [],
    rule: ['excluded'],
    repeats: [],
    replies: ['as', 'values'],
    rows: ['record', 'guest', 'in', 'email', 'name', 'reply', 'values', 'make', 'uninvited'],
  }[kind] as string[];
  const extra = Object.keys(map).find((k) => ![kind, 'default', 'direction', ...more].includes(k));
  if (extra !== undefined) return `"${extra}" is not part of a field map with ${kind}`;
  for (const name of ['default', 'edit', 'in', 'email', 'excluded'])
    if (map[name] !== undefined && (typeof map[name] !== 'string' || (map[name] as string).length > 5000)) return `${name} is a text`;
  if (map['direction'] !== undefined && !['->', '<-', '<->', 'once'].includes(map['direction'] as string))
    return `direction is "->", "<-", "<->" or once, not "${String(map['direction'])}"`;
  const main = map[kind];
  if (kind === 'repeats') return checkRepeatsShape(main);
  if (kind === 'page') return main === true ? null : 'page is true';
  if (kind === 'fixed' && Array.isArray(main) && main.length <= 100 && main.every((v) => typeof v === 'string')) return null;
  if (typeof main !== 'string' || main === '' || main.length > 5000) return `${kind} is a text of 1 to 5000 characters`;
  if (kind === 'table') return checkTableShape(map['values']);
  if (kind === 'words') return checkChoicesShape(map['choose']);
  if (kind === 'replies') return checkRepliesShape(map);
  if (kind === 'rows') return checkGuestRowsShape(map);
  if (kind !== 'join') return null;
  try {
    parseJoin(main);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

const mapKinds = ['copy', 'join', 'fixed', 'table', 'words', 'people', 'page', 'rule', 'repeats', 'replies', 'rows'] as const;

function checkRepliesShape({ as, values }: Record<string, unknown>): string | null {
  if (as !== undefined && !repliesForms.includes(as as never)) return `as is ${repliesForms.join(' or ')}, not "${String(as)}"`;
  if (as !== undefined && values !== undefined) return 'values stands for one reply, so it goes without as';
  return checkReplyValues(values);
}

function checkGuestRowsShape(map: Record<string, unknown>): string | null {
  for (const name of ['record', 'guest'])
    if (typeof map[name] !== 'string' || map[name] === '')
      return `rows needs ${name}: the field of a row that ${name === 'record' ? 'refers to the record' : "has the guest's address"}`;
  for (const name of ['name', 'reply', 'uninvited'])
    if (map[name] !== undefined && (typeof map[name] !== 'string' || map[name] === '')) return `${name} is a text`;
  if (map['make'] !== undefined && typeof map['make'] !== 'boolean') return `make is true or false, not "${String(map['make'])}"`;
  if (map['default'] !== undefined) return 'each guest has a row, so there is nothing that a default could stand for';
  return checkReplyValues(map['values']);
}

/** What a field calls each reply. */
function checkReplyValues(values: unknown): string | null {
  if (values === undefined) return null;
  if (checkTableShape(values) !== null) return 'values has, for each reply, a text';
  const unknown = Object.keys(values as object).find((k) => !responses.includes(k as never));
  return unknown === undefined ? null : `"${unknown}" is no reply; replies are ${responses.join(', ')}`;
}

function checkRepeatsShape(value: unknown): string | null {
  if (value === null || typeof value !== 'object' || Array.isArray(value))
    return `repeats names a field for frequency, and for any of ${parts.slice(1).join(', ')}`;
  const given = value as Record<string, unknown>;
  const extra = Object.keys(given).find((k) => k !== 'values' && !(parts as readonly string[]).includes(k));
  if (extra !== undefined) return `"${extra}" is no part of a rule; parts are ${parts.join(', ')}`;
  const wrong = Object.entries(given).find(([k, v]) => k !== 'values' && (typeof v !== 'string' || v === '' || v.length > 200));
  if (wrong !== undefined) return `repeats/${wrong[0]} names a field`;
  if (given['frequency'] === undefined) return 'repeats needs the field of its frequency';
  const { values } = given;
  const fits =
    values === undefined ||
    (values !== null &&
      typeof values === 'object' &&
      Object.entries(values).every(([k, v]) => (everyNames as string[]).includes(k) && typeof v === 'string' && v.length <= 200));
  return fits ? null : `repeats/values says what the field calls ${everyNames.join(', ')}`;
}

function checkTableShape(values: unknown): string | null {
  const fits =
    values !== null &&
    typeof values === 'object' &&
    !Array.isArray(values) &&
    Object.keys(values).length > 0 &&
    Object.values(values).every((v) => typeof v === 'string');
  return fits ? null : 'a table has values: for each value of the field, a text';
}

function checkChoicesShape(choose: unknown): string | null {
  const fits =
    Array.isArray(choose) &&
    choose.length > 0 &&
    choose.length <= 500 &&
    choose.every((c) => typeof c === 'object' && c !== null && typeof c.word === 'string' && c.word.trim() !== '' && typeof c.value === 'string');
  return fits ? null : 'words have choose: a list of { word, value }, of which the first that is found counts';
}
