import type { LaneAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { parse } from 'yaml';
import { client, reasonOf } from '../data.ts';
import { draftWith } from '../editor/draft-with.ts';
import { Ago, Button, Card, Failure } from './basics.tsx';

const say = (value: unknown) => (value === null || value === undefined ? '(nothing)' : typeof value === 'string' ? value : JSON.stringify(value));

/** Earlier versions of a lane, what each changed, and bringing one back as a draft. */
export function Versions({ lane }: { lane: LaneAnswer }) {
  const go = useNavigate();
  const versions = useQuery({ queryKey: ['lanes', lane.slug, 'versions', lane.version], queryFn: () => client.versions(lane.slug) });
  const back = useMutation({
    mutationFn: async (version: number) => {
      const definition = parse((await client.laneFile(lane.slug, version)).text) as object;
      return draftWith(lane, { ...definition, records: lane.definition.records, calendar: lane.definition.calendar });
    },
    onSuccess: (draft) => void go(`/drafts/${draft.id}?section=prove`),
  });
  return (
    <Card title="Versions">
      {versions.isError && <Failure>{reasonOf(versions.error)}</Failure>}
      {back.isError && <Failure>{reasonOf(back.error)}</Failure>}
      <table>
        <thead>
          <tr>
            <th className="w-20">Version</th>
            <th className="w-56">By</th>
            <th>What it changed</th>
            <th>
              <span className="sr-only">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {versions.data?.items.map((v) => (
            <tr key={v.version}>
              <td>{v.version}</td>
              <td>
                {v.madeBy}, <Ago at={v.madeAt} />
              </td>
              <td className="break-words">
                {v.version === 1 ? 'the lane was made' : v.changes.length === 0 ? 'nothing' : ''}
                <ul>
                  {v.changes.slice(0, 12).map((c) => (
                    <li key={c.pointer}>
                      <span className="text-soft">{c.pointer.slice(1)}:</span> <s className="decoration-soft">{say(c.before)}</s> &rarr;{' '}
                      {say(c.after)}
                    </li>
                  ))}
                  {v.changes.length > 12 && <li className="text-soft">and {v.changes.length - 12} more</li>}
                </ul>
              </td>
              <td>
                {v.version !== lane.version && (
                  <Button quiet disabled={back.isPending} onClick={() => back.mutate(v.version)} aria-label={`Bring version ${v.version} back`}>
                    Bring back
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}
