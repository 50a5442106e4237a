import type { HoldAnswer } from '@monsoon/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { itemPath } from '../parts/operations.tsx';
import { namesOf, sayValue } from '../parts/values.tsx';

/** Changes that wait for a person. */
export function Holds() {
  const holds = useQuery({ queryKey: ['holds'], queryFn: () => client.holds() });
  return (
    <>
      <PageHead title="Holds" note="Changes set aside until a person settles them." />
      {holds.isError && <Failure>{reasonOf(holds.error)}</Failure>}
      {holds.data?.items.length === 0 && (
        <Card>
          <Empty>Nothing is held.</Empty>
        </Card>
      )}
      {holds.data?.items.map((hold) => (
        <Hold key={hold.id} hold={hold} />
      ))}
    </>
  );
}

function Hold({ hold }: { hold: HoldAnswer }) {
  const settle = useMutation({
    mutationFn: (choice: string) => client.settle(hold.id, choice),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['holds'] }),
  });
  const names = namesOf(hold.record, hold.event);
  const at = (side: object, name: string) => sayValue(name, (side as Record<string, unknown>)[name]);
  return (
    <Card
      title={hold.label}
      aside={
        <div className="flex gap-2">
          {hold.choices.map((choice) => (
            <Button
              key={choice}
              danger={choice === 'remove'}
              onClick={() => settle.mutate(choice)}
              disabled={settle.isPending}
              aria-label={`${choice}: ${hold.label}`}
            >
              {choice === 'remove' ? 'remove the event' : choice === 'keep' ? 'keep it and stop following' : choice}
            </Button>
          ))}
        </div>
      }
    >
      <p className="px-3 py-2">
        <Badge tone="held">{hold.question}</Badge> {hold.cause}.{' '}
        <span className="text-soft">
          Since <Ago at={hold.createdAt} />; <Link to={itemPath(hold.lane, hold.recordId, hold.moment)}>record {hold.recordId}</Link>
        </span>
      </p>
      {settle.isError && <Failure>{reasonOf(settle.error)}</Failure>}
      <table className="table-fixed">
        <thead>
          <tr>
            <th className="w-28">Field</th>
            <th>
              <Badge tone="records">Record, when last agreed</Badge>
            </th>
            <th>
              <Badge tone="calendar">Event now</Badge>
            </th>
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{at(hold.record, name)}</td>
              <td>{at(hold.event, name) || <span className="text-soft">(gone)</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}
