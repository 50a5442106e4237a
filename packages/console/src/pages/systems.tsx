import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, Heads, PageHead } from '../parts/basics.tsx';
import { Health } from '../parts/health.tsx';

export function Systems() {
  const systems = useQuery({ queryKey: ['systems'], queryFn: () => client.systems() });
  const go = useNavigate();
  const [back] = useSearchParams();
  return (
    <>
      <PageHead title="Systems" note="Outside programs that Monsoon holds an address and credentials for.">
        <Button needs="administer" onClick={() => go('/systems/new')}>
          Connect a system
        </Button>
      </PageHead>
      {back.get('refused') !== null && <Failure>Nothing was authorised: {back.get('refused')}</Failure>}
      {systems.isError && <Failure>{reasonOf(systems.error)}</Failure>}
      {systems.data !== undefined && (
        <Card>
          {systems.data.items.length === 0 ? (
            <Empty>
              No system is connected. <Link to="/systems/new">Connect one</Link>: a calendar server and the program whose records belong on it.
            </Empty>
          ) : (
            <table>
              <Heads of={['System', 'Holds', 'Address', 'Health', 'Calls this month', 'Checked', 'Lanes']} right={['Calls this month']} />
              <tbody>
                {systems.data.items.map((s) => (
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
