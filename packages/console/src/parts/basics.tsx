import type { ButtonHTMLAttributes, ReactNode } from 'react';
import { useEffect, useState } from 'react';
import { type Needs, useMay, whyNot } from '../may.tsx';
import { SortHeads } from './sorted.tsx';

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  quiet?: boolean;
  danger?: boolean;
  /** what the person must be allowed to do */
  needs?: Needs;
}

export function Button({ quiet, danger, needs, className = '', ...rest }: ButtonProps) {
  const may = useMay(needs);
  const look = quiet
    ? 'border-transparent hover:bg-sunk'
    : danger
      ? 'border-failed text-failed bg-card hover:bg-failed-wash'
      : 'border-line bg-card hover:bg-sunk';
  return (
    <button
      type="button"
      className={`inline-flex items-center gap-1.5 rounded border px-3 py-1 font-medium disabled:text-soft disabled:cursor-default ${look} ${className}`}
      {...rest}
      {...(may ? {} : { disabled: true, title: whyNot(needs) })}
    />
  );
}

const tones = {
  held: 'bg-held-wash text-held',
  failed: 'bg-failed-wash text-failed',
  plain: 'bg-sunk text-ink',
  records: 'bg-records-wash text-records',
  calendar: 'bg-calendar-wash text-calendar',
};
export type Tone = keyof typeof tones;

/** A small word on a wash. What is fine has no colour. */
export const Badge = ({ tone = 'plain', children }: { tone?: Tone; children: ReactNode }) => (
  <span className={`inline-block rounded px-1.5 text-[0.87rem] font-medium whitespace-nowrap ${tones[tone]}`}>{children}</span>
);

export const toneOf = (state: string): Tone => (state === 'held' ? 'held' : state === 'failed' || state === 'failing' ? 'failed' : 'plain');

export function PageHead({ title, note, children }: { title: string; note?: ReactNode; children?: ReactNode }) {
  useEffect(() => {
    document.title = `${title} - Monsoon`;
  }, [title]);
  return (
    <header className="mb-4 flex flex-wrap items-start justify-between gap-3">
      <div>
        <h1 className="text-2xl font-semibold">{title}</h1>
        {note !== undefined && <div className="text-soft">{note}</div>}
      </div>
      {children !== undefined && <div className="flex flex-wrap gap-2">{children}</div>}
    </header>
  );
}

export const Card = ({ title, aside, children }: { title?: string; aside?: ReactNode; children: ReactNode }) => (
  <section className="mb-5 rounded-md border border-line bg-card">
    {title !== undefined && (
      <div className="flex items-center justify-between gap-3 border-b border-line px-3 py-2">
        <h2 className="font-semibold">{title}</h2>
        {aside}
      </div>
    )}
    {children}
  </section>
);

/** The head of a table of fields: the sides whose values stand below, in their colours. */
export const SideHeads = ({ sides }: { sides: { name: string; tone?: Tone; extra?: ReactNode }[] }) => (
  <thead>
    <tr>
      <th className="w-28">Field</th>
      {sides.map(({ name, tone, extra }) => (
        <th key={name}>
          {tone === undefined ? name : <Badge tone={tone}>{name}</Badge>} {extra}
        </th>
      ))}
    </tr>
  </thead>
);

/** The head of a table: names of its columns, numbers right, and a last one for what can be done. */
export const Heads = ({ of, right = [], actions = false }: { of: string[]; right?: string[]; actions?: boolean }) => (
  <thead>
    <SortHeads columns={of.map((name) => ({ name, right: right.includes(name) }))} order={null} actions={actions} />
  </thead>
);

/** An empty place that offers the next step. */
/** While a page is on its way. It appears after a moment: most pages are there before. */
export const Reading = () => (
  <p role="status" className="reading px-3 py-4 text-soft">
    Reading...
  </p>
);

export const Empty = ({ children }: { children: ReactNode }) => <p className="px-3 py-4 text-soft">{children}</p>;

export const Failure = ({ children }: { children: ReactNode }) => (
  <p role="alert" className="m-3 rounded bg-failed-wash px-3 py-2 text-failed">
    {children}
  </p>
);

/** Re-renders now and then, so that "2 min ago" stays true. */
function useClock(): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 10_000);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** How long ago, or until when. The exact time is beside it in UTC: the browser's own zone tables may be out of date. */
export function Ago({ at, none = 'never' }: { at: string | null; none?: string }) {
  const now = useClock();
  if (at === null) return <span className="text-soft">{none}</span>;
  const seconds = Math.round((now - Date.parse(at)) / 1000);
  const size = Math.abs(seconds);
  const amount =
    size < 5
      ? null
      : size < 60
        ? `${size} s`
        : size < 5400
          ? `${Math.round(size / 60)} min`
          : size < 129_600
            ? `${Math.round(size / 3600)} h`
            : `${Math.round(size / 86_400)} days`;
  return (
    <time dateTime={at} title={`${at.slice(0, 10)} ${at.slice(11, 19)} UTC`} className="whitespace-nowrap">
      {amount === null ? 'now' : seconds > 0 ? `${amount} ago` : `in ${amount}`}
    </time>
  );
}
