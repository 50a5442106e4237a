import type { Change, MappedValues, When } from '@monsoon/core';
import { formatWhen } from '@monsoon/core/text';

export function sayValue(name: string, value: unknown): string {
  if (value === null || value === undefined) return '';
  if (name === 'when') return formatWhen(value as When);
  return Array.isArray(value) ? value.join(', ') : String(value);
}

const order = ['when', 'title', 'location', 'description', 'categories', 'busy', 'status', 'visibility', 'link', 'colour'];
export const namesOf = (...sides: (MappedValues | null | undefined)[]): string[] => order.filter((n) => sides.some((s) => s != null && n in s));

export const Cell = ({ name, value }: { name: string; value: unknown }) => {
  const text = sayValue(name, value);
  return text === '' ? (
    <span className="text-soft">(none)</span>
  ) : (
    <span className="whitespace-pre-wrap break-words">{text.length > 400 ? `${text.slice(0, 400)}...` : text}</span>
  );
};

/** Before and after of each field. */
export const Changes = ({ changes, brief }: { changes: Change[]; brief?: boolean }) => (
  <ul>
    {changes.slice(0, brief ? 2 : 20).map((c) => (
      <li key={c.property} className="break-words">
        <span className="text-soft">{c.property}:</span> {c.before !== null && <s className="decoration-soft">{short(c.property, c.before)}</s>}{' '}
        {c.before !== null && c.after !== null && <span aria-hidden>&rarr; </span>}
        {c.after !== null && <span>{short(c.property, c.after)}</span>}
      </li>
    ))}
    {brief && changes.length > 2 && <li className="text-soft">and {changes.length - 2} more</li>}
  </ul>
);

const short = (name: string, value: unknown) => {
  const text = sayValue(name, value);
  return text.length > 90 ? `${text.slice(0, 90)}...` : text;
};
