import type { Change, LinkValues } from '@monsoon/core';
import { propertyNames, sayAny, sayProperty } from '@monsoon/core/text';

export const sayValue = sayProperty;

/** The names that any side has a value for, in the order of an event; further maps of a property after it. */
export function namesOf(...sides: (LinkValues | null | undefined)[]): string[] {
  const place = (name: string) => {
    const at = propertyNames.indexOf(name.split('>')[0] as (typeof propertyNames)[number]);
    return at < 0 ? propertyNames.length : at;
  };
  const names = new Set(sides.flatMap((s) => Object.entries(s ?? {}).flatMap(([name, value]) => (sayAny(value) === '' ? [] : [name]))));
  return [...names].sort((a, b) => place(a) - place(b) || (a < b ? -1 : 1));
}

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
      <li key={`${c.side} ${c.property}`} className="break-words">
        <span className={c.side === 'record' ? 'text-records' : 'text-calendar'}>{c.side}</span> <span className="text-soft">{c.property}:</span>{' '}
        {c.before !== null && <s className="decoration-soft">{short(c.property, c.before)}</s>}{' '}
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
