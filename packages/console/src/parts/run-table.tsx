import type { RunAnswer } from '@monsoon/contract';
import { sayCounts } from '@monsoon/contract/text';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Card, Empty, Failure, toneOf } from './basics.tsx';
import { type Column, useSorted } from './sorted.tsx';

const columns: Column<RunAnswer>[] = [
  { name: 'Began', by: (r) => r.startedAt ?? r.createdAt },
  { name: 'Lane', by: (r) => r.laneName },
  { name: 'Cause', by: (r) => r.cause },
  { name: 'Read', by: (r) => r.scope },
  { name: 'State', by: (r) => r.state },
  { name: 'What it did', by: (r) => r.counts.created + r.counts.changed + r.counts.removed },
];

export function RunTable({ lane }: { lane?: string }) {
  const runs = useQuery({ queryKey: ['runs', lane ?? 'all'], queryFn: () => client.runs({ limit: 100, ...(lane === undefined ? {} : { lane }) }) });
  const { rows, heads } = useSorted(runs.data?.items ?? [], columns);
  return (
    <Card>
      {runs.isError && <Failure>{reasonOf(runs.error)}</Failure>}
      {runs.data?.items.length === 0 && <Empty>No runs yet.</Empty>}
      {runs.data !== undefined && runs.data.items.length > 0 && (
        <table>
          {heads}
          <tbody>
            {rows.map((r) => (
              <tr key={r.id}>
                <td>
                  <Link to={`/runs/${r.id}`}>
                    <Ago at={r.startedAt ?? r.createdAt} />
                  </Link>
                </td>
                <td>{r.laneName}</td>
                <td>{r.cause}</td>
                <td>{r.scope}</td>
                <td>{r.state === 'done' ? <span className="text-soft">done</span> : <Badge tone={toneOf(r.state)}>{r.state}</Badge>}</td>
                <td>
                  {r.state === 'failed' || r.state === 'held'
                    ? r.reason
                    : r.state === 'running' && r.planned > 0
                      ? `${r.done} of ${r.planned}`
                      : sayCounts(r.counts)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Card>
  );
}
