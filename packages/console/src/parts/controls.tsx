import { type ReactNode, useId } from 'react';

const look = 'rounded border border-line bg-paper px-2 py-1 aria-[invalid=true]:border-failed';

/** A setting with its label, its field, and what was found about it. */
export function Setting({
  label,
  hint,
  wrong = [],
  children,
}: {
  label: string;
  hint?: ReactNode;
  wrong?: string[];
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className="grid gap-1 px-3 py-1.5 md:grid-cols-[11rem_minmax(0,1fr)]">
      <label htmlFor={id} className="pt-1 font-medium">
        {label}
      </label>
      <div>
        {children(id)}
        {hint !== undefined && <p className="text-[0.9rem] text-soft">{hint}</p>}
        <Wrong of={wrong} />
      </div>
    </div>
  );
}

export const Wrong = ({ of }: { of: string[] }) =>
  of.length === 0 ? null : (
    <ul className="text-failed">
      {of.slice(0, 4).map((reason) => (
        <li key={reason}>{reason}</li>
      ))}
    </ul>
  );

export interface Option {
  value: string;
  label: string;
}

/** A choice; the empty one says what happens without it. */
export function Choice({
  id,
  label,
  value,
  options,
  empty,
  wrong = false,
  className = '',
  onChange,
}: {
  id?: string;
  label?: string;
  value: string;
  options: readonly (Option | string)[];
  empty?: string;
  wrong?: boolean;
  className?: string;
  onChange: (value: string) => void;
}) {
  const known = options.map((o) => (typeof o === 'string' ? { value: o, label: o } : o));
  const missing = value !== '' && !known.some((o) => o.value === value);
  return (
    <select
      id={id}
      aria-label={label}
      aria-invalid={wrong}
      value={value}
      className={`${look} ${className}`}
      onChange={(e) => onChange(e.target.value)}
    >
      {(empty !== undefined || value === '') && <option value="">{empty ?? ''}</option>}
      {missing && <option value={value}>{value} (not there)</option>}
      {known.map((o) => (
        <option key={o.value} value={o.value}>
          {o.label}
        </option>
      ))}
    </select>
  );
}

export function Words({
  id,
  label,
  value,
  place,
  wrong = false,
  lines = 1,
  className = 'w-full',
  list,
  onChange,
}: {
  id?: string;
  label?: string;
  value: string;
  place?: string;
  wrong?: boolean;
  lines?: number;
  className?: string;
  list?: string;
  onChange: (value: string) => void;
}) {
  const common = { id, 'aria-label': label, 'aria-invalid': wrong, value, placeholder: place, spellCheck: false, className: `${look} ${className}` };
  return lines > 1 ? (
    <textarea {...common} rows={lines} onChange={(e) => onChange(e.target.value)} />
  ) : (
    <input {...common} list={list} autoComplete="off" onChange={(e) => onChange(e.target.value)} />
  );
}

/** A whole number; what is no number yet stays in the field and is not taken over. */
export const Count = ({ id, label, value, onChange }: { id?: string; label?: string; value: number; onChange: (value: number) => void }) => (
  <input
    id={id}
    aria-label={label}
    type="number"
    min={0}
    value={value}
    className={`${look} w-24 tabular-nums`}
    onChange={(e) => e.target.value !== '' && Number.isInteger(Number(e.target.value)) && onChange(Number(e.target.value))}
  />
);

export const Tick = ({
  label,
  checked,
  disabled = false,
  onChange,
}: {
  label: string;
  checked: boolean;
  disabled?: boolean;
  onChange: (checked: boolean) => void;
}) => (
  <label className={`inline-flex items-center gap-1.5 ${disabled ? 'text-soft' : ''}`}>
    <input type="checkbox" checked={checked} disabled={disabled} onChange={(e) => onChange(e.target.checked)} className="size-4 accent-(--ink)" />
    {label}
  </label>
);

/** A question with its answers as cards, of which one is chosen. */
export function Cards<T extends string>({
  legend,
  value,
  options,
  onChange,
}: {
  legend: string;
  value: T | undefined;
  options: readonly { value: T; label: string; hint: string }[];
  onChange: (value: T) => void;
}) {
  const name = useId();
  return (
    <fieldset className="px-3 py-2">
      <legend className="sr-only">{legend}</legend>
      <div className="grid gap-2 md:grid-cols-3">
        {options.map((o) => (
          <label
            key={o.value}
            className={`cursor-pointer rounded-md border px-3 py-2 has-[:focus-visible]:outline-2 ${value === o.value ? 'border-ink bg-sunk' : 'border-line hover:bg-sunk'}`}
          >
            <input type="radio" name={name} className="sr-only" checked={value === o.value} onChange={() => onChange(o.value)} />
            <span className="block font-semibold">{o.label}</span>
            <span className="text-[0.93rem] text-soft">{o.hint}</span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
