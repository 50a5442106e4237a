import type { LaneAnswer } from '@monsoon/contract';
import { useQuery } from '@tanstack/react-query';
import { client, queries, reasonOf } from '../data.ts';
import { Badge, Button, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';
import { itemPath, Operations } from './operations.tsx';

/** Both sides read whole, counted and compared. */
export function AuditDialog({ lane, open, onClose }: { lane: LaneAnswer; open: boolean; onClose: () => void }) {
  const audit = useQuery({
    queryKey: ['audit', lane.slug],
    queryFn: () => client.audit(lane.slug).finally(() => queries.invalidateQueries({ queryKey: ['audits'] })),
    enabled: open,
    staleTime: 0,
    gcTime: 0,
  });
  const c = audit.data?.counts;
  const rows: [string, number | null, number | null][] =
    c === undefined
      ? []
      : [
          ['in sync', c.inSync, c.inSync],
          ['differing', c.differing, c.differing],
          ['missing on the calendar', c.missing, null],
          ['without a record', null, c.missingRecords],
          ['left out', c.leftOut, null],
          ['their record has left', null, c.extra],
          ['foreign', null, c.foreign],
          ['in all', c.moments, c.events],
        ];
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={`Audit: ${lane.definition.name}`}
      description="Both sides read whole and compared. Nothing is written."
      actions={<Button onClick={onClose}>Close</Button>}
    >
      {audit.isPending && <Empty>Reading both sides...</Empty>}
      {audit.isError && <Failure>{reasonOf(audit.error)}</Failure>}
      {audit.data !== undefined && (
        <>
          <table>
            <thead>
              <tr>
                <th>
                  <span className="sr-only">Count of</span>
                </th>
                <th>
                  <Badge tone="records">Records</Badge>
                </th>
                <th>
                  <Badge tone="calendar">Calendar</Badge>
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map(([name, left, right]) => (
                <tr key={name}>
                  <th scope="row">{name}</th>
                  <td>{left ?? ''}</td>
                  <td>{right ?? ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {!audit.data.addsUp && (
            <Failure>
              The counts of the calendar do not add up: somebody changes it at this moment, or the server lists it wrongly. Repeat the audit.
            </Failure>
          )}
          {audit.data.differences.length === 0 ? (
            <p className="px-4 py-3 font-semibold">Both sides agree.</p>
          ) : (
            <Operations
              lines={audit.data.differences
                .slice(0, 300)
                .map((d) => ({ ...d, key: `${d.recordId ?? d.href} ${d.moment}`, kind: d.fix ?? 'held', notes: [], to: itemPath(lane.slug, d) }))}
            />
          )}
        </>
      )}
    </Dialog>
  );
}
