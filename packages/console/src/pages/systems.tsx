import type { SystemAnswer } from '@monsoon/contract';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Health } from '../parts/health.tsx';
import { type Column, useSorted } from '../parts/sorted.tsx';

const columns: Column<SystemAnswer>[] = [
  { name: 'System', by: (s) => s.name },
  { name: 'Holds', by: (s) => s.offers.join(' ') },
  { name: 'Address', by: (s) => s.address },
  { name: 'Health', by: (s) => s.health.state },
  { name: 'Calls this month', by: (s) => s.calls.used, right: true },
  { name: 'Checked', by: (s) => s.checkedAt },
  { name: 'Lanes', by: (s) => s.lanes.length },
];

export function Systems() {
  const systems = useQuery({ queryKey: ['systems'], queryFn: () => client.systems() });
  const { rows, heads } = useSorted(systems.data?.items ?? [], columns);
  const go = useNavigate();
  const [back] = useSearchParams();
  return (
    <>
      <PageHead title="Systems" note="Outside programs that Monsoon holds an address and credentials for.">
        <Button needs="administer" onClick={() => go('/systems/new')}>
          Connect a system
        </Button>
      </PageHead>
      {systems.data?.items
        .filter((s) => s.slug === back.get('refused'))
        .map((s) => (
          <Failure key={s.slug}>
            {s.name} was not authorised; <Link to="/activity">Activity</Link> gives the reason.
          </Failure>
        ))}
      {systems.isError && <Failure>{reasonOf(systems.error)}</Failure>}
      {systems.data !== undefined && (
        <Card>
          {systems.data.items.length === 0 ? (
            <Empty>
              No system is connected. <Link to="/systems/new">Connect one</Link>: a calendar server and the program whose records belong on it.
            </Empty>
          ) : (
            <table>
              {heads}
              <tbody>
                {rows.map((s) => (
                  <tr key={s.id}>
                    <td className="font-medium">
                      <Link to={`/systems/${s.slug}`}>{s.name}</Link>
                    </td>
                    <td>
                      <span className="flex flex-wrap gap-1">
                        {s.offers.map((o) => (
                          <Badge key={o} tone={o === 'records' ? 'records' : o === 'calendars' ? 'calendar' : 'plain'}>
                            {o}
                          </Badge>
                        ))}
                      </span>
                    </td>
                    <td className="break-all text-soft">{s.address}</td>
                    <td>
                      <Health system={s} />
                    </td>
                    <td className="text-right tabular-nums">
                      {s.calls.used}
                      {s.calls.allowance !== null && <span className="text-soft"> of {s.calls.allowance}</span>}
                    </td>
                    <td>
                      <Ago at={s.checkedAt} />
                    </td>
                    <td>
                      {s.lanes.map((l) => (
                        <Link key={l} to={`/lanes/${l}`} className="mr-2">
                          {l}
                        </Link>
                      ))}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Card>
      )}
    </>
  );
}
