import { type Field, type FieldMap, type MappableName, properties } from '@monsoon/core';
import type { Values } from './conditions.tsx';
import type { Direction } from './draft.ts';

/** The ways in which a property can be filled, in words. */
export const kinds = {
  copy: 'a field, as it is',
  join: 'several fields, joined',
  fixed: 'always the same',
  table: 'each value stands for another',
  words: 'its words choose a value',
  people: 'people, by e-mail',
  page: 'the page of the record',
  rule: 'a field that holds the rule',
  repeats: 'a field for each part of the rule',
  replies: 'what the guests replied',
  rows: 'a row for each guest',
} as const;
export type Kind = keyof typeof kinds;
export const kindOf = (map: FieldMap): Kind => (Object.keys(kinds) as Kind[]).find((k) => k in map)!;

export const fittingKinds = (property: MappableName, direction: Direction): Kind[] =>
  property === 'attendees'
    ? ['people', 'copy']
    : property === 'organizer'
      ? ['fixed', 'copy', 'people']
      : property === 'replies'
        ? ['replies', 'rows']
        : property === 'recurrence'
          ? ['rule', 'repeats']
          : [
              ...(properties[property].set === true ? (['copy', 'fixed', 'join'] as const) : (['copy', 'join', 'fixed', 'table'] as const)),
              ...(direction === '->' ? [] : (['words'] as const)),
              ...(property === 'link' ? (['page'] as const) : []),
            ];

export const ofTypes = (fields: readonly Field[], types: readonly string[]) =>
  fields.filter((f) => types.includes(f.type)).map((f) => ({ value: f.name, label: f.label }));

/** A map of another kind, beginning with what the last one spoke of. */
export function begin(kind: Kind, property: MappableName, fields: readonly Field[], values: Values, before: FieldMap | null): FieldMap {
  const spoken =
    before === null
      ? undefined
      : 'copy' in before
        ? before.copy
        : 'table' in before
          ? before.table
          : 'words' in before
            ? before.words
            : 'people' in before
              ? before.people
              : undefined;
  const fitting = ofTypes(fields, properties[property].types);
  const field = fitting.find((f) => f.value === spoken)?.value ?? fitting[0]?.value ?? '';
  const choice = fields.find((f) => f.name === spoken && f.type === 'choice')?.name ?? fields.find((f) => f.type === 'choice')?.name ?? field;
  const occurring = (name: string) => (values[name] ?? []).map((v) => v.value);
  switch (kind) {
    case 'copy':
      return { copy: field };
    case 'join':
      return { join: spoken === undefined ? `{${field}}` : `{${spoken}}` };
    case 'fixed':
      return { fixed: properties[property].values?.[0] ?? '' };
    case 'table':
      return { table: choice, values: Object.fromEntries(occurring(choice).map((v) => [v, properties[property].values?.[0] ?? v])) };
    case 'words':
      return { words: choice, choose: occurring(choice).map((value) => ({ word: value, value })), direction: '<-' };
    case 'people':
      return { people: fields.find((f) => f.type === 'people' || f.type === 'person')?.name ?? '' };
    case 'page':
      return { page: true };
    case 'rule':
      return { rule: (fields.find((f) => /rule|repeat|recur/i.test(f.name)) ?? fields.find((f) => f.type === 'text'))?.name ?? '' };
    case 'replies':
      return {
        replies: (fields.find((f) => /repl|accept|answer|confirm/i.test(f.name)) ?? fields.find((f) => f.type === 'text'))?.name ?? '',
        as: 'list',
      };
    case 'rows':
      return { rows: '', record: '', guest: '' };
    case 'repeats':
      return {
        repeats: { frequency: (fields.find((f) => /every|repeat|frequen/i.test(f.name)) ?? fields.find((f) => f.type === 'choice'))?.name ?? '' },
      };
  }
}
