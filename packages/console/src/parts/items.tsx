import type { ItemAnswer, LaneAnswer } from '@monsoon/contract';
import type { ItemOrder } from '@monsoon/contract/text';
import { sayItem } from '@monsoon/core/text';
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Card, Empty, Failure, toneOf } from './basics.tsx';
import { itemPath } from './operations.tsx';
import { type Column, type Order, SortHeads } from './sorted.tsx';
import { sayValue } from './values.tsx';

/** The server puts the list in order: only a part of it is here. */
const orders: Record<string, ItemOrder> = { Record: 'record', Title: 'title', State: 'state', 'When, or why not': 'time', Since: 'since' };
const columns: Column<ItemAnswer>[] = [
  { name: 'Record', by: () => null, className: 'w-24' },
  { name: 'Title', by: () => null },
  { name: 'State', by: () => null, className: 'w-28' },
  { name: 'When, or why not', by: () => null, className: 'w-[42%]' },
  { name: 'Since', by: () => null, className: 'w-28' },
];

const states = ['', 'in sync', 'left out', 'failed', 'held', 'creating', 'unlinked'];

/** The items of a lane: a long list of which only what is seen is drawn. */
export function Items({ lane }: { lane: LaneAnswer }) {
  const [search, setSearch] = useState('');
  const [state, setState] = useState('');
  const [order, setOrder] = useState<Order>({ name: 'When, or why not', down: false });
  const asked = useDeferredValue(search);
  const list = useInfiniteQuery({
    queryKey: ['items', lane.slug, asked, state, order],
    queryFn: ({ pageParam }) =>
      client.items(lane.slug, {
        limit: 200,
        order: orders[order.name]!,
        ...(order.down ? { descending: true } : {}),
        ...(asked === '' ? {} : { search: asked }),
        ...(state === '' ? {} : { state }),
        ...(pageParam === null ? {} : { cursor: pageParam }),
      }),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
  const items = list.data?.pages.flatMap((p) => p.items) ?? [];
  const scroller = useRef<HTMLElement>(null);
  const rows = useVirtualizer({ count: items.length, getScrollElement: () => scroller.current, estimateSize: () => 34, overscan: 12 });
  const drawn = rows.getVirtualItems();
  const last = drawn.at(-1)?.index ?? 0;
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  useEffect(() => {
    if (last >= items.length - 40 && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [last, items.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  const above = drawn[0]?.start ?? 0;
  const below = rows.getTotalSize() - (drawn.at(-1)?.end ?? 0);
  return (
    <Card>
      <div className="flex flex-wrap items-center gap-3 border-b border-line px-3 py-2">
        <label className="flex items-center gap-2">
          Search
          <input
            type="search"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            placeholder="title, record or UID"
            className="w-64 rounded border border-line bg-paper px-2 py-1 placeholder:text-soft"
          />
        </label>
        <label className="flex items-center gap-2">
          State
          <select value={state} onChange={(e) => setState(e.target.value)} className="rounded border border-line bg-paper px-2 py-1">
            {states.map((s) => (
              <option key={s} value={s}>
                {s === '' ? 'all' : s}
              </option>
            ))}
          </select>
        </label>
      </div>
      {list.isError && <Failure>{reasonOf(list.error)}</Failure>}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
      <section ref={scroller} className="max-h-[62vh] overflow-auto" tabIndex={0} aria-label="Items">
        <table className="table-fixed">
          <thead className="sticky top-0 z-10 bg-card">
            <SortHeads columns={columns} order={order} onOrder={setOrder} />
          </thead>
          <tbody>
            {above > 0 && (
              <tr aria-hidden>
                <td colSpan={5} style={{ height: above, padding: 0, border: 0 }} />
              </tr>
            )}
            {drawn.map((row) => (
              <Row key={row.key} item={items[row.index]!} index={row.index} measure={rows.measureElement} />
            ))}
            {below > 0 && (
              <tr aria-hidden>
                <td colSpan={5} style={{ height: below, padding: 0, border: 0 }} />
              </tr>
            )}
          </tbody>
        </table>
      </section>
      {list.data !== undefined && items.length === 0 && (
        <Empty>
          {asked === '' && state === '' ? 'Nothing here yet; the first run fills this list.' : 'Nothing fits. Try fewer letters or all states.'}
        </Empty>
      )}
    </Card>
  );
}

/** @param measure tells the list how high the row is: on narrow screens it is a list itself */
const Row = ({ item, index, measure }: { item: ItemAnswer; index: number; measure: (row: HTMLTableRowElement | null) => void }) => {
  const { verdict } = item;
  const says =
    verdict === null
      ? [sayValue('when', item.when), item.repeats ?? []].flat().join(', ')
      : `${verdict.reason}: ${verdict.condition}; found ${verdict.value}`;
  return (
    <tr ref={measure} data-index={index}>
      <td className="truncate">{sayItem(item)}</td>
      <td className="truncate">
        <Link to={itemPath(item.lane, item)}>{item.label}</Link>
      </td>
      <td>{item.state === 'in sync' ? <span className="text-soft">in sync</span> : <Badge tone={toneOf(item.state)}>{item.state}</Badge>}</td>
      <td className="truncate" title={says}>
        {verdict === null ? says : <span className={item.state === 'failed' ? 'text-failed' : 'text-soft'}>{says}</span>}
      </td>
      <td className="text-soft">
        <Ago at={item.updatedAt} />
      </td>
    </tr>
  );
};
