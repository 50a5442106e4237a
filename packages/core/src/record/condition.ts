import type { FieldType } from './fields.ts';

/**
 * A condition as a tree. `all`, `any` and `not` combine; a leaf compares one field.
 * Values of `before`, `after` and `within` are dates, date-times, or days relative to today (`-30 days`, `today`).
 */
export type Condition = { all: Condition[] } | { any: Condition[] } | { not: Condition } | Leaf;

export interface Leaf {
  field: string;
  test: Test;
  value?: string | number | boolean | string[] | undefined;
}

/** Each test, the fields it fits, and the value it takes. */
export const tests = {
  is: { types: 'every', value: 'one' },
  'is not': { types: 'every', value: 'one' },
  'one of': { types: 'every', value: 'list' },
  'none of': { types: 'every', value: 'list' },
  'is empty': { types: 'every', value: 'none' },
  'is not empty': { types: 'every', value: 'none' },
  contains: { types: 'text', value: 'one' },
  'starts with': { types: 'text', value: 'one' },
  words: { types: 'text', value: 'one' },
  '<': { types: 'number', value: 'number' },
  '<=': { types: 'number', value: 'number' },
  '>': { types: 'number', value: 'number' },
  '>=': { types: 'number', value: 'number' },
  before: { types: 'time', value: 'one' },
  after: { types: 'time', value: 'one' },
  within: { types: 'time', value: 'pair' },
} as const;
export type Test = keyof typeof tests;
export const testNames = Object.keys(tests) as [Test, ...Test[]];

/** Which tests a type of field takes, beside those that every field takes. */
export const families: Record<FieldType, 'text' | 'number' | 'time' | 'other'> = {
  text: 'text',
  'long text': 'text',
  number: 'number',
  'yes/no': 'other',
  choice: 'text',
  choices: 'text',
  date: 'time',
  time: 'other',
  'date-time': 'time',
  duration: 'number',
  person: 'text',
  people: 'text',
  reference: 'text',
  references: 'text',
  'web address': 'text',
  place: 'text',
};

export const fittingTests = (type: FieldType): Test[] => testNames.filter((n) => tests[n].types === 'every' || tests[n].types === families[type]);
