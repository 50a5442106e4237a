import { type ReactNode, useState } from 'react';

/** A column of a list: its name, and what its rows are put in order by. Without that, it cannot be sorted. */
export interface Column<T> {
  name: string;
  by?: (row: T) => string | number | null;
  /** numbers stand right */
  right?: boolean;
  className?: string;
}

export interface Order {
  name: string;
  down: boolean;
}

/** Names of columns that sort their list when they are pressed; pressed again, the other way round. */
export function SortHeads<T>({
  columns,
  order,
  onOrder,
  actions = false,
}: {
  columns: readonly Column<T>[];
  order: Order | null;
  onOrder?: (order: Order) => void;
  actions?: boolean;
}) {
  return (
    <tr>
      {columns.map(({ name, by, right, className = '' }) => {
        const mine = order?.name === name ? order : null;
        return (
          <th
            key={name}
            className={`${right ? 'text-right' : ''} ${className}`}
            {...(mine === null ? {} : { 'aria-sort': mine.down ? ('descending' as const) : ('ascending' as const) })}
          >
            {by === undefined ? (
              name
            ) : (
              <button
                type="button"
                className={`rounded font-semibold hover:text-ink ${right ? 'text-right' : 'text-left'}`}
                onClick={() => onOrder?.({ name, down: mine !== null && !mine.down })}
              >
                {name}
                <span aria-hidden className="inline-block w-3">
                  {mine === null ? '' : mine.down ? '\u2193' : '\u2191'}
                </span>
              </button>
            )}
          </th>
        );
      })}
      {actions && (
        <th>
          <span className="sr-only">Actions</span>
        </th>
      )}
    </tr>
  );
}

const words = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });

/** Rows in the order that a person chose, and the heads to choose it with. What has no value comes last, either way. */
export function useSorted<T>(rows: readonly T[], columns: readonly Column<T>[], actions = false): { rows: readonly T[]; heads: ReactNode } {
  const [order, setOrder] = useState<Order | null>(null);
  const heads = (
    <thead>
      <SortHeads columns={columns} order={order} onOrder={setOrder} actions={actions} />
    </thead>
  );
  const by = columns.find((c) => c.name === order?.name)?.by;
  if (by === undefined || order === null) return { rows, heads };
  const compare = (a: T, b: T) => {
    const [left, right] = [by(a), by(b)];
    if (left === null || right === null) return left === right ? 0 : left === null ? 1 : -1;
    const way = typeof left === 'number' && typeof right === 'number' ? left - right : words.compare(String(left), String(right));
    return order.down ? -way : way;
  };
  return { rows: [...rows].sort(compare), heads };
}
