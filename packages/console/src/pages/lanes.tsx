import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { LaneStrip } from '../parts/strip.tsx';

export function Lanes() {
  const go = useNavigate();
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes() });
  const drafts = useQuery({ queryKey: ['drafts'], queryFn: () => client.drafts() });
  const open = drafts.data?.items ?? [];
  return (
    <>
      <PageHead title="Lanes" note="Records left, calendar right, and what passes between them.">
        <Button needs="operate" onClick={() => void go('/lanes/new')}>
          Arrange a lane
        </Button>
      </PageHead>
      {lanes.isError && <Failure>{reasonOf(lanes.error)}</Failure>}
      {open.length > 0 && (
        <Card title="Being arranged">
          <ul>
            {open.map((d) => (
              <li key={d.id} className="flex flex-wrap items-center gap-3 border-b border-line px-3 py-2 last:border-0">
                <Link to={`/drafts/${d.id}`} className="font-semibold">
                  {d.name === '' ? 'A new lane' : d.name}
                </Link>
                <span className="text-soft">
                  {d.lane === null ? 'not made yet' : `changes to ${d.lane}`}; saved by {d.editedBy} <Ago at={d.editedAt} />
                </span>
              </li>
            ))}
          </ul>
        </Card>
      )}
      {lanes.data !== undefined && (
        <Card>
          {lanes.data.items.length === 0 ? (
            <Empty>
              No lane yet. <Link to="/lanes/new">Arrange one</Link>, or apply a lane file: <code>monsoon lanes apply -f FILE</code>
            </Empty>
          ) : (
            <ul>
              {lanes.data.items.map((lane) => (
                <LaneStrip key={lane.id} lane={lane} />
              ))}
            </ul>
          )}
        </Card>
      )}
    </>
  );
}
