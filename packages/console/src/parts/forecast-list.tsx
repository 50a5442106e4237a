import type { ForecastAnswer } from '@monsoon/contract';
import { countOperations, foldSeries, sayCounts, sayFolded } from '@monsoon/contract/text';
import { sayItem } from '@monsoon/core/text';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { Badge, Empty } from './basics.tsx';
import { Choice, Words } from './controls.tsx';
import { Changes } from './values.tsx';

type Operation = ForecastAnswer['operations'][number];
type Verdict = ForecastAnswer['verdicts'][number];
type Row =
  | { key: string; of: 'operation'; item: Operation }
  | { key: string; of: 'series'; items: Operation[]; open: boolean }
  | { key: string; of: 'verdict'; item: Verdict }
  | { key: string; of: 'group'; reason: string; count: number };

const matches = (words: string, item: { label: string; recordId: string | null }) =>
  `${item.label} ${item.recordId ?? ''}`.toLowerCase().includes(words);

/** A forecast of any size: what would be done, item by item and field by field, and what would not cross, by reason. */
export function ForecastList({ forecast, onPick }: { forecast: ForecastAnswer; onPick?: (recordId: string) => void }) {
  const [search, setSearch] = useState('');
  const [kind, setKind] = useState('');
  // Series that are shown by their occurrences.
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const words = useDeferredValue(search).trim().toLowerCase();
  const kinds = useMemo(() => [...new Set(forecast.operations.map((o) => o.kind))], [forecast]);
  const rows = useMemo((): Row[] => {
    const operations = kind === 'left out' ? [] : forecast.operations.filter((o) => (kind === '' || o.kind === kind) && matches(words, o));
    const verdicts = kind === '' || kind === 'left out' ? forecast.verdicts.filter((v) => matches(words, v)) : [];
    const groups = new Map<string, Verdict[]>();
    for (const v of verdicts) groups.set(v.reason, [...(groups.get(v.reason) ?? []), v]);
    return [
      ...foldSeries(operations).flatMap((folded): Row[] => {
        const rowOf = (item: Operation): Row => ({ key: `${item.recordId ?? item.href} ${item.moment}`, of: 'operation', item });
        if (folded.of === 'line') return [rowOf(folded.line)];
        const open = opened.has(folded.key);
        return [{ key: folded.key, of: 'series', items: folded.lines, open }, ...(open ? folded.lines.map(rowOf) : [])];
      }),
      ...[...groups].flatMap(([reason, all]): Row[] => [
        { key: `group ${reason}`, of: 'group', reason, count: all.length },
        ...all.map((item): Row => ({ key: `left out ${item.recordId ?? item.href} ${item.moment}`, of: 'verdict', item })),
      ]),
    ];
  }, [forecast, words, kind, opened]);
  const toggle = (key: string) =>
    setOpened((before) => {
      const after = new Set(before);
      if (!after.delete(key)) after.add(key);
      return after;
    });
  const scroller = useRef<HTMLElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => (rows[i]!.of === 'operation' ? 96 : 36),
    getItemKey: (i) => rows[i]!.key,
    overscan: 8,
  });
  return (
    <>
      <p className="px-3 pt-2 font-semibold">{sayCounts(forecast.counts)}</p>
      {forecast.operations.length < countOperations(forecast.counts) && (
        <p className="px-3 pt-1 text-soft">
          The first {forecast.operations.length} of {countOperations(forecast.counts)} are listed.
        </p>
      )}
      {forecast.guard.map((reason) => (
        <p key={reason} className="mx-3 mt-2 rounded bg-held-wash px-3 py-2 text-held">
          The guard would hold this run: {reason}.
        </p>
      ))}
      <div className="flex flex-wrap gap-2 px-3 py-2">
        <Words label="Search in the forecast" className="w-60" place="title or record" value={search} onChange={setSearch} />
        <Choice
          label="Kind"
          value={kind}
          empty="everything"
          options={[...kinds, ...(forecast.verdicts.length > 0 ? ['left out'] : [])]}
          onChange={setKind}
        />
      </div>
      {rows.length === 0 ? (
        <Empty>{forecast.operations.length === 0 ? 'Nothing would be written: both sides stand as last agreed.' : 'Nothing matches.'}</Empty>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
        <section ref={scroller} className="max-h-[26rem] overflow-auto border-t border-line" tabIndex={0} aria-label="Forecast, item by item">
          <ul className="relative" style={{ height: list.getTotalSize() }}>
            {list.getVirtualItems().map((row) => (
              <li
                key={row.key}
                data-index={row.index}
                ref={list.measureElement}
                className="absolute inset-x-0 border-b border-line px-3 py-1.5"
                style={{ transform: `translateY(${row.start}px)` }}
              >
                <ForecastRow row={rows[row.index]!} onPick={onPick} onToggle={toggle} />
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

/** Who would be written to, and why. */
const Notices = ({ of }: { of: Operation['notices'] }) =>
  of.map((n) => (
    <span key={n.email} className="block text-held">
      {n.method === 'CANCEL' ? 'Cancellation' : 'Message'} to {n.name ?? n.email} ({n.why})
    </span>
  ));

const toneOfKind = (kind: string) => (kind === 'hold' ? 'held' : kind === 'create record' || kind === 'remove record' ? 'records' : 'calendar');

interface ForecastRowProps {
  row: Row;
  onPick: ((recordId: string) => void) | undefined;
  /** opens or closes a series */
  onToggle: (key: string) => void;
}

function ForecastRow({ row, onPick, onToggle }: ForecastRowProps) {
  if (row.of === 'series') {
    const first = row.items[0]!;
    return (
      <div className="grid grid-cols-[7rem_minmax(0,14rem)_minmax(0,1fr)_auto] gap-2">
        <span>
          <Badge tone={toneOfKind(first.kind)}>{first.kind}</Badge>
        </span>
        <span className="break-words">
          {first.label}
          <span className="block text-soft">a series; {first.cause}</span>
        </span>
        <span>{sayFolded(row.items)}</span>
        <button
          type="button"
          className="self-start rounded border border-line px-2 hover:bg-sunk"
          aria-expanded={row.open}
          onClick={() => onToggle(row.key)}
        >
          {row.open ? 'Close' : 'Open'}
          <span className="sr-only"> the occurrences of {first.label}</span>
        </button>
      </div>
    );
  }
  if (row.of === 'group')
    return (
      <strong>
        Would not cross, {row.reason}: {row.count}
      </strong>
    );
  if (row.of === 'verdict')
    return (
      <span className="text-soft">
        {sayItem(row.item)} {row.item.label}: {row.item.condition}; found {row.item.value}
      </span>
    );
  const { item } = row;
  return (
    <div className="grid grid-cols-[7rem_minmax(0,14rem)_minmax(0,1fr)_auto] gap-2">
      <span>
        <Badge tone={toneOfKind(item.kind)}>{item.kind}</Badge>
      </span>
      <span className="break-words">
        {item.label}
        <span className="block text-soft">
          {sayItem(item)}; {item.cause}
        </span>
      </span>
      <div>
        <Changes changes={item.changes} brief />
        <Notices of={item.notices} />
      </div>
      {onPick !== undefined && item.recordId !== null && (
        <button
          type="button"
          className="self-start rounded border border-line px-2 hover:bg-sunk"
          onClick={() => onPick(item.recordId!)}
          aria-label={`Only this one: ${item.label}`}
        >
          Only this one
        </button>
      )}
    </div>
  );
}
