import type { LaneAnswer } from '@monsoon/contract';
import { sayItem } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Failure, Heads } from './basics.tsx';
import { itemPath } from './operations.tsx';

/** What failed in a lane, by reason, to be fixed in the source and retried. */
export function Failures({ lane }: { lane: LaneAnswer }) {
  const go = useNavigate();
  const failures = useQuery({ queryKey: ['items', lane.slug, 'failures'], queryFn: () => client.failures(lane.slug), enabled: lane.failed > 0 });
  const retry = useMutation({
    mutationFn: (what: { reason?: string; condition?: string }) => client.retry(lane.slug, what),
    onSuccess: (run) => void go(`/runs/${run.id}`),
  });
  const groups = failures.data?.items ?? [];
  if (lane.failed === 0 || groups.length === 0) return null;
  return (
    <Card
      title="Failed"
      aside={
        groups.length > 1 ? (
          <Button needs="operate" onClick={() => retry.mutate({})} disabled={retry.isPending}>
            Try all {lane.failed} again
          </Button>
        ) : undefined
      }
    >
      {retry.isError && <Failure>{reasonOf(retry.error)}</Failure>}
      <ul>
        {groups.map((g) => (
          <li key={`${g.reason} ${g.condition}`} className="border-b border-line px-3 py-2 last:border-0">
            <div className="flex flex-wrap items-center gap-3">
              <Badge tone="failed">{g.reason}</Badge> {g.count} {g.count === 1 ? 'item' : 'items'}: {g.condition}
              <Button
                needs="operate"
                className="ml-auto"
                onClick={() => retry.mutate({ reason: g.reason, condition: g.condition })}
                disabled={retry.isPending}
                aria-label={`Try again: ${g.reason}`}
              >
                Try again
              </Button>
            </div>
            <ul className="text-soft">
              {g.items.slice(0, 5).map((i) => (
                <li key={`${i.recordId ?? i.href} ${i.moment}`}>
                  <Link to={itemPath(lane.slug, i)}>{i.label || sayItem(i)}</Link>: {i.value}
                </li>
              ))}
              {g.count > 5 && <li>and {g.count - 5} more</li>}
            </ul>
          </li>
        ))}
      </ul>
    </Card>
  );
}

/** How far both sides were apart, audit by audit. */
export function PastAudits({ lane }: { lane: LaneAnswer }) {
  const audits = useQuery({ queryKey: ['audits', lane.slug], queryFn: () => client.pastAudits(lane.slug) });
  const items = audits.data?.items ?? [];
  if (items.length === 0) return null;
  return (
    <Card title="Audits">
      <table>
        <Heads
          of={['When', 'Cause', 'In sync', 'Differing', 'Missing', 'Foreign', 'Outcome']}
          right={['In sync', 'Differing', 'Missing', 'Foreign']}
        />
        <tbody>
          {items.slice(0, 30).map((a) => {
            const c = a.counts as Record<string, number>;
            return (
              <tr key={a.at}>
                <td>
                  <Ago at={a.at} />
                </td>
                <td>{a.cause}</td>
                <td className="text-right tabular-nums">{c['inSync']}</td>
                <td className="text-right tabular-nums">{c['differing']}</td>
                <td className="text-right tabular-nums">{(c['missing'] ?? 0) + (c['missingRecords'] ?? 0)}</td>
                <td className="text-right tabular-nums">{c['foreign']}</td>
                <td>{a.differences === 0 && a.addsUp ? 'both sides agree' : <Badge tone="failed">{a.differences} differences</Badge>}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Card>
  );
}
