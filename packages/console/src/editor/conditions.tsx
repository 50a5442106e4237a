import { type Condition, type Field, fittingTests, formatCondition, type Leaf, parseCondition, type Test, tests } from '@monsoon/core';
import { Plus, X } from 'lucide-react';
import { useId, useState } from 'react';
import { Button } from '../parts/basics.tsx';
import { Choice, Tick, Words, Wrong } from '../parts/controls.tsx';

export type Values = Record<string, { value: string; count: number }[]>;

interface Rows {
  join: 'all' | 'any';
  leaves: Leaf[];
}

const isLeaf = (c: Condition): c is Leaf => 'field' in c;

/** Comparisons joined by one word; null: it is more than rows can show, and is edited as text. */
function rowsOf(text: string): Rows | null {
  if (text.trim() === '') return { join: 'all', leaves: [] };
  try {
    const { condition } = parseCondition(text);
    if (isLeaf(condition)) return { join: 'all', leaves: [condition] };
    if ('all' in condition && condition.all.every(isLeaf)) return { join: 'all', leaves: condition.all };
    if ('any' in condition && condition.any.every(isLeaf)) return { join: 'any', leaves: condition.any };
  } catch {
    // Text that is being typed.
  }
  return null;
}

const textOf = ({ join, leaves }: Rows): string => {
  if (leaves.length === 0) return '';
  return formatCondition(leaves.length === 1 ? leaves[0]! : join === 'all' ? { all: leaves } : { any: leaves });
};

/** What a test takes at first: something that can be changed rather than nothing. */
function firstValue(test: Test, field: Field | undefined, values: Values): Leaf['value'] {
  const frequent = values[field?.name ?? '']?.[0]?.value ?? field?.choices?.[0] ?? '';
  switch (tests[test].value) {
    case 'none':
      return undefined;
    case 'list':
      return [frequent];
    case 'pair':
      return ['-30 days', '30 days'];
    case 'number':
      return 0;
    default:
      return field?.type === 'yes/no'
        ? true
        : tests[test].types === 'time'
          ? 'today'
          : field?.type === 'number' || field?.type === 'duration'
            ? 0
            : frequent;
  }
}

/** A condition over fields, as rows and as the same text. */
export function ConditionEditor({
  label,
  text,
  fields,
  values,
  wrong,
  onChange,
}: {
  label: string;
  text: string;
  fields: readonly Field[];
  values: Values;
  wrong: string[];
  onChange: (text: string) => void;
}) {
  // A row whose last value was just unticked says nothing yet, and stays where it is.
  const [edited, setEdited] = useState<{ text: string; rows: Rows } | null>(null);
  const rows = edited?.text === text ? edited.rows : rowsOf(text);
  const [asText, setAsText] = useState(false);
  const set = (next: Rows) => {
    const said = textOf({ ...next, leaves: next.leaves.filter((l) => !Array.isArray(l.value) || l.value.length > 0) });
    setEdited({ text: said, rows: next });
    onChange(said);
  };
  const put = (at: number, leaf: Leaf | null) =>
    set({ ...rows!, leaves: rows!.leaves.flatMap((l, i) => (i === at ? (leaf === null ? [] : [leaf]) : [l])) });
  return (
    <fieldset className="px-3 py-1.5">
      <legend className="pt-1.5 font-medium">{label}</legend>
      {rows !== null && !asText && (
        <>
          {rows.leaves.length > 1 && (
            <Choice
              label="How the conditions are joined"
              value={rows.join}
              options={[
                { value: 'all', label: 'all of these hold' },
                { value: 'any', label: 'any of these holds' },
              ]}
              onChange={(join) => set({ ...rows, join: join as Rows['join'] })}
            />
          )}
          <ul className="mt-1 grid gap-1.5">
            {rows.leaves.map((leaf, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own, and keep their places
              <Row key={i} leaf={leaf} fields={fields} values={values} onChange={(next) => put(i, next)} />
            ))}
          </ul>
          <div className="mt-1 flex items-center">
            <Button
              quiet
              disabled={fields.length === 0}
              onClick={() => {
                const field = fields.find((f) => f.type === 'choice') ?? fields[0]!;
                set({ ...rows, leaves: [...rows.leaves, { field: field.name, test: 'is', value: firstValue('is', field, values) }] });
              }}
            >
              <Plus size={16} aria-hidden /> Add a condition
            </Button>
            <Button quiet onClick={() => setAsText(true)}>
              As text
            </Button>
          </div>
        </>
      )}
      {(rows === null || asText) && (
        <>
          <Words
            label={`${label}, as text`}
            lines={2}
            value={text}
            place="status is booked and (kind one of [tuning, voicing] or not private is yes)"
            wrong={wrong.length > 0}
            onChange={onChange}
          />
          <p className="text-[0.9rem] text-soft">
            {rows === null ? 'Groups within groups are edited as text.' : ''}{' '}
            {rows !== null && (
              <Button quiet onClick={() => setAsText(false)}>
                As rows
              </Button>
            )}
          </p>
        </>
      )}
      <Wrong of={wrong} />
    </fieldset>
  );
}

function Row({ leaf, fields, values, onChange }: { leaf: Leaf; fields: readonly Field[]; values: Values; onChange: (leaf: Leaf | null) => void }) {
  const field = fields.find((f) => f.name === leaf.field);
  return (
    <li className="flex flex-wrap items-start gap-1.5">
      <Choice
        label="Field"
        value={leaf.field}
        options={fields.map((f) => ({ value: f.name, label: f.label }))}
        onChange={(name) => {
          const next = fields.find((f) => f.name === name);
          const test = next !== undefined && fittingTests(next.type).includes(leaf.test) ? leaf.test : 'is';
          onChange({ field: name, test, value: firstValue(test, next, values) });
        }}
      />
      <Choice
        label="Test"
        value={leaf.test}
        options={field === undefined ? [leaf.test] : fittingTests(field.type)}
        onChange={(test) =>
          onChange({
            field: leaf.field,
            test: test as Test,
            value: tests[test as Test].value === tests[leaf.test].value ? leaf.value : firstValue(test as Test, field, values),
          })
        }
      />
      <Operand leaf={leaf} field={field} known={values[leaf.field] ?? []} onChange={(value) => onChange({ ...leaf, value })} />
      <button
        type="button"
        aria-label={`Take away: ${field?.label ?? leaf.field} ${leaf.test}`}
        className="rounded p-1.5 hover:bg-sunk"
        onClick={() => onChange(null)}
      >
        <X size={16} aria-hidden />
      </button>
    </li>
  );
}

const unquoted = (text: string): string | number => (/^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : text);

function Operand({
  leaf,
  field,
  known,
  onChange,
}: {
  leaf: Leaf;
  field: Field | undefined;
  known: { value: string; count: number }[];
  onChange: (value: Leaf['value']) => void;
}) {
  const list = useId();
  const shape = tests[leaf.test].value;
  if (shape === 'none') return null;
  if (shape === 'list') {
    const chosen = [leaf.value ?? []].flat().map(String);
    const all = [...new Set([...(field?.choices ?? known.slice(0, 12).map((k) => k.value)), ...chosen])];
    return (
      <fieldset className="flex max-w-md flex-wrap gap-x-3 gap-y-1 pt-1">
        <legend className="sr-only">Values</legend>
        {all.map((value) => (
          <Tick
            key={value}
            label={`${value}${known.find((k) => k.value === value) === undefined ? '' : ` (${known.find((k) => k.value === value)!.count})`}`}
            checked={chosen.includes(value)}
            onChange={(yes) => onChange(yes ? [...chosen, value] : chosen.filter((c) => c !== value))}
          />
        ))}
      </fieldset>
    );
  }
  if (shape === 'pair') {
    const [from = '', until = ''] = [leaf.value ?? []].flat().map(String);
    return (
      <>
        <Words label="From" className="w-32" value={from} onChange={(v) => onChange([v, until])} />
        <Words label="Until" className="w-32" value={until} onChange={(v) => onChange([from, v])} />
      </>
    );
  }
  if (field?.type === 'yes/no')
    return <Choice label="Value" value={leaf.value === true ? 'yes' : 'no'} options={['yes', 'no']} onChange={(v) => onChange(v === 'yes')} />;
  if (field?.choices !== undefined && shape === 'one')
    return (
      <Choice
        label="Value"
        value={String(leaf.value ?? '')}
        options={field.choices.map((c) => ({ value: c, label: `${c} (${known.find((k) => k.value === c)?.count ?? 0})` }))}
        onChange={onChange}
      />
    );
  const numeric = shape === 'number' || field?.type === 'number' || field?.type === 'duration';
  return (
    <>
      <Words label="Value" className="w-48" list={list} value={String(leaf.value ?? '')} onChange={(v) => onChange(numeric ? unquoted(v) : v)} />
      <datalist id={list}>
        {known.slice(0, 40).map((k) => (
          <option key={k.value} value={k.value}>
            {k.count}
          </option>
        ))}
      </datalist>
    </>
  );
}
