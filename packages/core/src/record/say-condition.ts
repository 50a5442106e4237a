import type { Condition, Leaf } from './conditions.ts';

/** A comparison as a person would say it: `status is booked`. */
export function sayLeaf(leaf: Leaf): string {
  if (leaf.value === undefined) return `${leaf.field} ${leaf.test}`;
  const value = Array.isArray(leaf.value)
    ? leaf.value.join(', ')
    : typeof leaf.value === 'boolean'
      ? leaf.value
        ? 'yes'
        : 'no'
      : String(leaf.value);
  return `${leaf.field} ${leaf.test} ${value}`;
}

/** A whole condition in words. */
export function sayCondition(condition: Condition): string {
  if ('not' in condition) return `not (${sayCondition(condition.not)})`;
  if (!('all' in condition) && !('any' in condition)) return sayLeaf(condition);
  const [parts, word] = 'all' in condition ? [condition.all, ' and '] : [condition.any, ' or '];
  return parts.map((p) => ('field' in p || parts.length === 1 ? sayCondition(p) : `(${sayCondition(p)})`)).join(word);
}
