import { certain } from '../certain.ts';
import { type Condition, type Leaf, type Test, testNames } from './condition.ts';

/** Text that is no condition: where (column from 1) and why. */
export class ConditionTextError extends Error {
  override name = 'ConditionTextError';
  readonly column: number;
  constructor(column: number, reason: string) {
    super(`column ${column}: ${reason}`);
    this.column = column;
  }
}

type Value = NonNullable<Leaf['value']>;
type Token = { at: number; end: number } & ({ kind: 'word'; text: string } | { kind: 'string'; text: string } | { kind: 'mark'; text: string });

/** How deep conditions are nested: whatever is deeper is no person's. */
const DEEPEST = 50;

const BARE = /^[\p{L}_][\p{L}\p{N}_.@:-]*$/u;
const keywords = new Set(['and', 'or', 'not', 'all', 'any', 'yes', 'no', ...testNames.flatMap((t) => t.split(' '))]);
/** Longest names first, so that "is not empty" is not taken for "is not". */
const tests = [...testNames].sort((a, b) => b.length - a.length).map((name) => ({ name, words: name.split(' ') }));

function tokens(text: string): Token[] {
  const found: Token[] = [];
  const pattern = /\s+|"(?:[^"\\]|\\.)*"|[()[\],]|<=|>=|<|>|[^\s()[\],<>"]+/gy;
  while (pattern.lastIndex < text.length) {
    const at = pattern.lastIndex;
    const match = pattern.exec(text);
    if (match === null) throw new ConditionTextError(at + 1, 'a quoted text is not closed');
    const piece = match[0];
    if (piece.trim() === '') continue;
    const place = { at, end: at + piece.length };
    if (piece.startsWith('"')) found.push({ ...place, kind: 'string', text: unquote(piece, at) });
    else found.push({ ...place, kind: /^[()[\],]$/.test(piece) ? 'mark' : 'word', text: piece });
  }
  return found;
}

function unquote(piece: string, at: number): string {
  try {
    return JSON.parse(piece) as string;
  } catch {
    throw new ConditionTextError(at + 1, 'a quoted text has a "\\" that means nothing; write \\\\ or \\"');
  }
}

/**
 * Reads the text form: `status is booked and (kind one of [tuning, voicing] or not private is yes)`.
 * `and` binds closer than `or`. Texts and names of fields that are not one plain word, or a word of the language, stand in
 * quotes.
 *
 * @returns the tree, and the column of what each pointer into it (`/all/0/test`) was read from
 * @throws ConditionTextError
 */
export function parseCondition(text: string): { condition: Condition; columns: Map<string, number> } {
  const all = tokens(text);
  const columns = new Map<string, number>();
  const places = new Map<Leaf, { field: number; test: number; value: number }>();
  let next = 0;
  const column = () => (all[next]?.at ?? text.length) + 1;
  const fail = (reason: string): never => {
    throw new ConditionTextError(column(), reason);
  };
  const isToken = (kind: 'word' | 'mark', text: string, at = next) => all[at]?.kind === kind && all[at].text === text;
  const isWord = (word: string, at = next) => isToken('word', word, at);
  const isMark = (mark: string) => isToken('mark', mark);
  const expect = (mark: string) => {
    if (!isMark(mark)) fail(`"${mark}" is missing`);
    next++;
  };

  const chain = (word: 'or' | 'and', part: () => Condition): Condition => {
    const first = part();
    const parts = [first];
    while (isWord(word)) {
      next++;
      parts.push(part());
    }
    if (parts.length === 1) return first;
    return word === 'and' ? { all: parts } : { any: parts };
  };
  const either = (): Condition => chain('or', both);
  const both = (): Condition => chain('and', single);
  let depth = 0;
  const single = (): Condition => {
    if (++depth > DEEPEST) fail(`it is nested more than ${DEEPEST} deep`);
    const found = one();
    depth--;
    return found;
  };
  const one = (): Condition => {
    if (isWord('not')) {
      next++;
      return { not: single() };
    }
    for (const group of ['all', 'any'] as const) {
      if (!isWord(group) || all[next + 1]?.text !== '(') continue;
      next += 2;
      const only = either();
      expect(')');
      return group === 'all' ? { all: [only] } : { any: [only] };
    }
    if (isMark('(')) {
      next++;
      const inner = either();
      expect(')');
      return inner;
    }
    return leaf();
  };
  const leaf = (): Leaf => {
    const field = all[next];
    const at = { field: column(), test: 0, value: 0 };
    // A field whose name is a word of the language, or no plain word, stands in quotes.
    if (field === undefined || field.kind === 'mark' || (field.kind === 'word' && keywords.has(field.text)))
      return fail(
        field === undefined
          ? 'a comparison is missing'
          : field.kind === 'mark'
            ? `"${field.text}" is no field`
            : `"${field.text}" is a word of the language; put it in quotes to mean a field of that name`,
      );
    next++;
    at.test = column();
    const test = tests.find(({ words }) => words.every((w, i) => isWord(w, next + i)));
    if (test === undefined) return fail(`a test is missing; tests are ${testNames.join(', ')}`);
    next += test.words.length;
    at.value = column();
    const found: Leaf = { field: field.text, test: test.name as Test };
    if (test.name !== 'is empty' && test.name !== 'is not empty') found.value = isMark('[') ? list() : value();
    places.set(found, at);
    return found;
  };
  const list = (): string[] => {
    next++;
    const items = [String(value())];
    while (isMark(',')) {
      next++;
      items.push(String(value()));
    }
    expect(']');
    return items;
  };
  const value = (): Exclude<Value, string[]> => {
    const token = all[next];
    if (token === undefined || token.kind === 'mark') return fail('a value is missing');
    next++;
    if (token.kind === 'string') return token.text;
    if (token.text === 'yes' || token.text === 'no') return token.text === 'yes';
    if (/^[+-]?\d+(\.\d+)?(e[+-]?\d+)?$/.test(token.text)) {
      const unit = all[next];
      if (unit?.kind === 'word' && /^days?$/.test(unit.text)) {
        next++;
        return `${token.text} ${unit.text}`;
      }
      return Number(token.text);
    }
    if (keywords.has(token.text)) {
      next--;
      return fail(`"${token.text}" is a word of the language; put it in quotes to mean the text`);
    }
    return token.text;
  };

  const condition = either();
  const more = all[next];
  if (more !== undefined) fail(`"${more.text}" is not expected here; join comparisons with and, or`);
  const remember = (node: Condition, pointer: string): void => {
    if ('all' in node) for (const [i, part] of node.all.entries()) remember(part, `${pointer}/all/${i}`);
    else if ('any' in node) for (const [i, part] of node.any.entries()) remember(part, `${pointer}/any/${i}`);
    else if ('not' in node) remember(node.not, `${pointer}/not`);
    else
      for (const [part, at] of Object.entries(certain(places.get(node), 'each comparison was read from its place')))
        columns.set(`${pointer}/${part}`, at);
  };
  remember(condition, '');
  return { condition, columns };
}

const sayText = (text: string): string => (BARE.test(text) && !keywords.has(text) ? text : JSON.stringify(text));

function sayValue(value: Value): string {
  if (Array.isArray(value)) return `[${value.map(sayText).join(', ')}]`;
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  // "-0" is written as a number has it; JSON would lose the sign.
  if (typeof value === 'number') return Object.is(value, -0) ? '-0' : String(value);
  return /^([+-]?\d+(\.\d+)? days?|\d{4}-\d\d-\d\d)$/.test(value) ? value : sayText(value);
}

const sayLeaf = (leaf: Leaf): string => `${sayText(leaf.field)} ${leaf.test}${leaf.value === undefined ? '' : ` ${sayValue(leaf.value)}`}`;

/** The text form of a tree; read again, it gives the same tree. */
export function formatCondition(condition: Condition): string {
  if ('not' in condition) return `not ${grouped(condition.not)}`;
  if (!('all' in condition) && !('any' in condition)) return sayLeaf(condition);
  const [parts, word] = 'all' in condition ? ([condition.all, 'and'] as const) : ([condition.any, 'or'] as const);
  const [first] = parts;
  if (first !== undefined && parts.length === 1) return `${word === 'and' ? 'all' : 'any'} (${formatCondition(first)})`;
  return parts.map(grouped).join(` ${word} `);
}

function grouped(condition: Condition): string {
  const text = formatCondition(condition);
  const chained = ('all' in condition && condition.all.length > 1) || ('any' in condition && condition.any.length > 1);
  return chained ? `(${text})` : text;
}
