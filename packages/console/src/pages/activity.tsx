import type { ActivityAnswer } from '@monsoon/contract';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Words } from '../parts/controls.tsx';
import { type Column, useSorted } from '../parts/sorted.tsx';

const columns: Column<ActivityAnswer>[] = [
  { name: 'When', by: (a) => a.at, className: 'w-24' },
  { name: 'Who', by: (a) => a.by },
  { name: 'Through', by: (a) => a.via },
  { name: 'What', by: (a) => a.what },
  { name: 'Of', by: (a) => a.of },
  { name: 'Outcome', by: (a) => a.outcome },
];

/** Who did what. */
export function Activity() {
  const [by, setBy] = useState('');
  const log = useInfiniteQuery({
    queryKey: ['activity', by],
    queryFn: ({ pageParam }) => client.activity({ limit: 100, ...(by === '' ? {} : { by }), ...(pageParam === '' ? {} : { cursor: pageParam }) }),
    initialPageParam: '',
    getNextPageParam: (last) => last.next,
  });
  const items = log.data?.pages.flatMap((p) => p.items) ?? [];
  const { rows, heads } = useSorted(items, columns);
  return (
    <>
      <PageHead
        title="Activity"
        note="Who did what in Monsoon. Nothing here can be changed; what is older than the retention rule says goes by itself."
      />
      <Card title="Newest first" aside={<Words label="Only of" className="w-64" place="an address" value={by} onChange={setBy} />}>
        {log.isError && <Failure>{reasonOf(log.error)}</Failure>}
        {log.isSuccess && items.length === 0 && <Empty>Nothing was done{by === '' ? ' yet' : ` by ${by}`}.</Empty>}
        {items.length > 0 && (
          <table>
            {heads}
            <tbody>
              {rows.map((a) => (
                <tr key={a.id}>
                  <td>
                    <Ago at={a.at} />
                  </td>
                  <td>{a.by}</td>
                  <td className="text-soft">{a.via}</td>
                  <td>{a.what}</td>
                  <td className="break-words">{[a.of, a.detail].filter(Boolean).join(': ')}</td>
                  <td>{a.outcome === 'refused' && <Badge tone="failed">refused</Badge>}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {log.hasNextPage && (
          <div className="border-t border-line px-3 py-2">
            <Button quiet onClick={() => void log.fetchNextPage()} disabled={log.isFetchingNextPage}>
              Earlier
            </Button>
          </div>
        )}
      </Card>
    </>
  );
}
