import { type Folded, foldSeries, sayFolded } from '@monsoon/contract/text';
import type { Change, operationKinds } from '@monsoon/core';
import { sayItem } from '@monsoon/core/text';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import { Badge, type Tone } from './basics.tsx';
import { Changes } from './values.tsx';

export interface Line {
  key: string | number;
  kind: string;
  recordId: string | null;
  /** where its event stands, where that is known */
  href?: string | null;
  label: string;
  changes: Change[];
  notes: string[];
  cause: string;
  /** the item's page */
  to?: string;
  /** a first cell, such as the time */
  lead?: ReactNode;
}

/** The kinds of lines: operations, and what a run noted in the journal. */
type Kind = (typeof operationKinds)[number] | 'attempt' | 'held';
const tones: Partial<Record<Kind, Tone>> = {
  hold: 'held',
  agree: 'plain',
  unlink: 'plain',
  attempt: 'held',
  held: 'held',
  'create record': 'records',
  'remove record': 'records',
};

export const itemPath = (lane: string, item: { recordId: string | null; href: string | null; moment: string }): string =>
  `/lanes/${lane}/items/${encodeURIComponent(item.recordId ?? item.href ?? '')}/${encodeURIComponent(item.moment)}`;

interface OperationsProps {
  lines: Line[];
  /** the head of the first cell */
  lead?: string;
  /** which lines show only their first fields */
  brief?: (line: Line) => boolean;
  /** a last cell */
  after?: (line: Line) => ReactNode;
  /** false where all lines are of the item that the page shows */
  named?: boolean;
}

/**
 * What was done or would be done: one line an operation, with its fields and its cause. The occurrences of a series to
 * which the same was done are one line, which opens.
 */
export function Operations({ lines, lead, brief = () => false, named = true, after }: OperationsProps) {
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const toggle = (key: string) =>
    setOpened((before) => {
      const now = new Set(before);
      if (!now.delete(key)) now.add(key);
      return now;
    });
  // Of one item, each line is another thing that was done to it.
  const rows: Folded<Line>[] = named ? foldSeries(lines) : lines.map((line) => ({ of: 'line', line }));
  const lineOf = (line: Line) => (
    <tr key={line.key}>
      {lead !== undefined && <td>{line.lead}</td>}
      <td>
        <Badge tone={tones[line.kind as Kind] ?? 'calendar'}>{line.kind}</Badge>
      </td>
      {named && <td className="whitespace-nowrap">{sayItem(line)}</td>}
      {named && <td>{line.to === undefined ? line.label : <Link to={line.to}>{line.label}</Link>}</td>}
      <td>
        <Changes changes={line.changes} brief={brief(line)} />
        {line.notes.map((note) => (
          <p key={note} className="text-soft">
            {note}
          </p>
        ))}
      </td>
      <td className="text-soft">{line.cause}</td>
      {after !== undefined && <td className="whitespace-nowrap">{after(line)}</td>}
    </tr>
  );
  return (
    <table>
      <thead>
        <tr>
          {lead !== undefined && <th className="w-24">{lead}</th>}
          <th className="w-24">What</th>
          {named && <th>Record</th>}
          {named && <th>Title</th>}
          <th>Fields</th>
          <th>Cause</th>
          {after !== undefined && (
            <th>
              <span className="sr-only">Actions</span>
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {rows.flatMap((row) => {
          if (row.of === 'line') return [lineOf(row.line)];
          const first = row.lines[0]!;
          const open = opened.has(row.key);
          return [
            <tr key={row.key}>
              {lead !== undefined && <td>{first.lead}</td>}
              <td>
                <Badge tone={tones[first.kind as Kind] ?? 'calendar'}>{first.kind}</Badge>
              </td>
              <td className="whitespace-nowrap">
                <button type="button" className="rounded border border-line px-2 hover:bg-sunk" aria-expanded={open} onClick={() => toggle(row.key)}>
                  {open ? 'Close' : `${row.lines.length} of a series`}
                </button>
              </td>
              <td>{first.label}</td>
              <td>{sayFolded(row.lines)}</td>
              <td className="text-soft">{first.cause}</td>
              {after !== undefined && <td />}
            </tr>,
            ...(open ? row.lines.map(lineOf) : []),
          ];
        })}
      </tbody>
    </table>
  );
}
