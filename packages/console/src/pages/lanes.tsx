import { useQuery } from '@tanstack/react-query';
import { client, reasonOf } from '../data.ts';
import { Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { LaneStrip } from '../parts/strip.tsx';

export function Lanes() {
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes() });
  return (
    <>
      <PageHead title="Lanes" note="Records left, calendar right, and what passes between them." />
      {lanes.isError && <Failure>{reasonOf(lanes.error)}</Failure>}
      {lanes.data !== undefined && (
        <Card>
          {lanes.data.items.length === 0 ? (
            <Empty>
              No lane yet. Make one from a lane file: <code>monsoon lanes apply -f FILE</code>
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
