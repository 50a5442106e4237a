import type { ItemDetail } from '@monsoon/contract';
import type { FieldValue } from '@monsoon/core';
import { sayValue as sayField } from '@monsoon/core/text';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { client, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead, Reading, SideHeads, toneOf } from '../parts/basics.tsx';
import { GuestsOfItem } from '../parts/guests.tsx';
import { Operations } from '../parts/operations.tsx';
import { UndoDialog } from '../parts/undo.tsx';
import { Cell, namesOf, sayValue } from '../parts/values.tsx';

/** Both banks of one item, the baseline between them, its history, and why it is as it is. */
export function Item() {
  const { lane, record, moment } = useParams() as { lane: string; record: string; moment?: string };
  const navigate = useNavigate();
  const item = useQuery({ queryKey: ['items', lane, 'one', record, moment], queryFn: () => client.item(lane, record, moment) });
  const run = useMutation({
    mutationFn: () => client.run(lane, item.data?.recordId === null ? { hrefs: [record] } : { records: [record] }),
    onSuccess: (made) => void navigate(`/runs/${made.id}`),
  });
  const follow = useMutation({ mutationFn: (of: string) => client.follow(lane, of), onSuccess: (made) => void navigate(`/runs/${made.id}`) });
  if (item.isError) return <Failure>{reasonOf(item.error)}</Failure>;
  if (item.data === undefined) return <Reading />;
  const i = item.data;
  return (
    <>
      <PageHead
        title={i.label}
        note={
          <>
            <Link to={`/lanes/${lane}`}>{lane}</Link>, {i.recordId === null ? 'an event without a record' : `record ${i.recordId}`}{' '}
            <Badge tone={toneOf(i.state)}>{i.state}</Badge>
          </>
        }
      >
        {i.record.url !== null && (
          <a href={i.record.url} className="inline-flex items-center rounded border border-line bg-card px-3 py-1 font-medium hover:bg-sunk">
            Open the record
          </a>
        )}
        {i.state === 'unlinked' && (
          <Button needs="operate" onClick={() => follow.mutate(i.recordId ?? record)} disabled={follow.isPending}>
            Follow it again
          </Button>
        )}
        <Button needs="operate" onClick={() => run.mutate()} disabled={run.isPending}>
          Run just this one
        </Button>
      </PageHead>
      {run.isError && <Failure>{reasonOf(run.error)}</Failure>}
      {follow.isError && <Failure>{reasonOf(follow.error)}</Failure>}
      <Card>
        <p className="px-3 pt-2 font-medium">{i.why}</p>
        <p className="px-3 pb-2 text-soft">Next: {i.next}</p>
      </Card>
      {i.moments.length > 0 && <Moments item={i} lane={lane} />}
      {i.series !== null && <SeriesOf series={i.series} lane={lane} />}
      <Banks item={i} />
      <GuestsOfItem lane={lane} guests={i.guests} />
      <Card title="History">
        {i.history.length === 0 ? (
          <Empty>Nothing was done with it yet.</Empty>
        ) : (
          <Operations
            lead="When"
            named={false}
            after={(line) => <UndoEntry entry={Number(line.key)} kind={line.kind} />}
            lines={i.history.map((h) => ({
              ...h,
              key: h.id,
              lead: (
                <Link to={`/runs/${h.run}`}>
                  <Ago at={h.at} />
                </Link>
              ),
            }))}
          />
        )}
      </Card>
    </>
  );
}

/** Which occurrence of which series it is, and the others. */
function SeriesOf({ series, lane }: { series: NonNullable<ItemDetail['series']>; lane: string }) {
  const { says, occurrence, others, overrides } = series;
  return (
    <Card title="Series">
      <p className="px-3 pt-2">
        {occurrence === null ? (
          'The event is a series: '
        ) : (
          <>
            The occurrence of <strong>{occurrence}</strong> of a series:{' '}
          </>
        )}
        <span className="text-calendar">{says}</span>
      </p>
      {overrides.length > 0 && <p className="px-3 pt-1 text-soft">Edited by themselves, and left as they are: {overrides.join('; ')}</p>}
      {others.length > 0 && (
        <ul className="flex flex-wrap gap-x-4 gap-y-1 px-3 py-2">
          {others.map((o) => (
            <li key={o.item}>
              <Link to={`/lanes/${lane}/items/${encodeURIComponent(o.item)}/${encodeURIComponent(o.moment)}`}>{o.when || o.label}</Link>
            </li>
          ))}
        </ul>
      )}
      <div className="pb-2" />
    </Card>
  );
}

const undoable = new Set(['create', 'create record', 'change', 'adopt', 'remove', 'remove record', 'unlink']);

/** Takes one change back, after showing what that would do. */
function UndoEntry({ entry, kind }: { entry: number; kind: string }) {
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const undo = useMutation({ mutationFn: () => client.undo({ entry }), onSuccess: (made) => void navigate(`/runs/${made.id}`) });
  if (!undoable.has(kind)) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)} aria-label={`Undo... entry ${entry}`}>
        Undo...
      </Button>
      <UndoDialog of={{ entry }} title="Take this change back" open={open} onClose={() => setOpen(false)} onConfirm={() => undo.mutate()} />
    </>
  );
}

/** Every moment of the record: which have an event, and why the others have none. */
function Moments({ item, lane }: { item: ItemDetail; lane: string }) {
  return (
    <Card title="Moments of this record">
      <table>
        <thead>
          <tr>
            <th>Moment</th>
            <th>When</th>
            <th>State</th>
            <th>Why not</th>
          </tr>
        </thead>
        <tbody>
          {item.moments.map((m) => (
            <tr key={m.moment}>
              <th scope="row">
                {m.moment === item.moment ? (
                  m.moment
                ) : (
                  <Link to={`/lanes/${lane}/items/${encodeURIComponent(item.recordId ?? '')}/${encodeURIComponent(m.moment)}`}>{m.moment}</Link>
                )}
              </th>
              <td>
                <Cell name="when" value={m.when} />
              </td>
              <td>
                <Badge tone={toneOf(m.state)}>{m.state}</Badge>
              </td>
              <td className="text-soft">{m.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}

function Banks({ item }: { item: ItemDetail }) {
  const names = namesOf(item.record.values, item.baseline?.record, item.event.values);
  return (
    <Card>
      {item.record.trouble !== null && <Failure>Record: {item.record.trouble}</Failure>}
      {item.event.trouble !== null && <Failure>Event: {item.event.trouble}</Failure>}
      {names.length === 0 ? (
        <RecordFields fields={item.record.fields as Record<string, FieldValue> | null} />
      ) : (
        <table className="table-fixed">
          <SideHeads sides={[{ name: 'Record', tone: 'records' }, { name: 'Baseline' }, { name: 'Event', tone: 'calendar' }]} />
          <tbody>
            {names.map((name) => {
              const at = (side: object | null | undefined) => (side as Record<string, unknown> | null | undefined)?.[name];
              const [record, base, event] = [at(item.record.values), at(item.baseline?.record), at(item.event.values)];
              // Each side against what it said itself: the two may say the same in different words.
              const moved = (value: unknown, before: unknown) => (sayValue(name, value) === sayValue(name, before) ? '' : 'bg-sunk');
              return (
                <tr key={name}>
                  <th scope="row">{name}</th>
                  <td className={moved(record, base)}>
                    <Cell name={name} value={record} />
                  </td>
                  <td className="text-soft">
                    <Cell name={name} value={base} />
                  </td>
                  <td className={moved(event, at(item.baseline?.event))}>
                    <Cell name={name} value={event} />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </Card>
  );
}

/** A record that shows nothing on the calendar, as it is. */
function RecordFields({ fields }: { fields: Record<string, FieldValue> | null }) {
  if (fields === null) return <Empty>Neither side has values for it now.</Empty>;
  return (
    <table className="table-fixed">
      <SideHeads
        sides={[
          { name: 'Record', tone: 'records' },
          { name: 'Event', tone: 'calendar' },
        ]}
      />
      <tbody>
        {Object.entries(fields).map(([name, value]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td className="break-words">{sayField(value) || <span className="text-soft">(none)</span>}</td>
            <td className="text-soft">(none)</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
