import type { LaneDraft } from '@monsoon/arranging';
import type { FieldMap, MappableName } from '@monsoon/core';
import { mappableNames } from '@monsoon/core';
import { useQuery } from '@tanstack/react-query';
import { client } from '../data.ts';
import { Button, Card } from '../parts/basics.tsx';
import { type Edited, type Editing, without } from './draft.ts';

const say = (map: FieldMap | FieldMap[] | undefined): string =>
  [map ?? []]
    .flat()
    .map((m) =>
      'copy' in m
        ? m.copy
        : 'table' in m
          ? `${m.table}, each value for another`
          : 'join' in m
            ? m.join
            : 'page' in m
              ? 'the page of the record'
              : 'fixed' in m
                ? `always ${[m.fixed].flat().join(', ')}`
                : 'words' in m
                  ? `its words choose ${m.words}`
                  : 'people' in m
                    ? m.people
                    : 'replies' in m
                      ? `the replies, into ${m.replies}`
                      : 'rows' in m
                        ? `a row for each guest, in ${m.rows}`
                        : 'rule' in m
                          ? `the rule of ${m.rule}`
                          : `the rule of ${Object.values(without(m.repeats, 'values')).join(', ')}`,
    )
    .join('; ');

/** Matches that the fields and their values suggest, each with its reason, to be taken one by one or all at once. */
export function Suggested({ lane, change, draft }: Editing) {
  const { records, direction, zone } = lane;
  const chosen = (records?.system ?? '') !== '' && (records?.collection ?? '') !== '';
  const suggested = useQuery({
    queryKey: ['suggest', records, direction],
    queryFn: () =>
      client.suggest({
        records: { system: records!.system!, collection: records!.collection! },
        ...(direction === undefined ? {} : { direction }),
        zone: zone ?? 'UTC',
      }),
    enabled: chosen && draft.id !== '',
    staleTime: 60_000,
  });
  const found = suggested.data?.definition as (LaneDraft & Edited) | undefined;
  if (found === undefined) return null;
  const why = (pointer: string) => suggested.data!.reasons.find((r) => r.pointer === pointer)?.reason ?? '';
  const open = mappableNames.filter((p) => found.fields?.[p] !== undefined && lane.fields?.[p] === undefined);
  const when = (lane.moments ?? []).length === 0 && (found.moments ?? []).length > 0;
  if (open.length === 0 && !when) return null;
  const take = (properties: MappableName[], times: boolean) =>
    change((l) => ({
      ...l,
      ...(times ? { moments: found.moments ?? [] } : {}),
      fields: { ...l.fields, ...Object.fromEntries(properties.map((p) => [p, found.fields![p]])) },
    }));
  return (
    <Card title="Suggested" aside={<Button onClick={() => take(open, when)}>Take all {open.length + (when ? 1 : 0)}</Button>}>
      <table>
        <tbody>
          {when && (
            <tr>
              <td className="text-records">{Object.values(found.moments![0]!.when ?? {}).join(', ')}</td>
              <td className="text-calendar">when</td>
              <td className="text-soft">{why('/moments/0/when') || why('/moments')}</td>
              <td>
                <Button quiet onClick={() => take([], true)} aria-label="Take when">
                  Take
                </Button>
              </td>
            </tr>
          )}
          {open.map((p) => (
            <tr key={p}>
              <td className="text-records">{say(found.fields![p])}</td>
              <td className="text-calendar">{p}</td>
              <td className="text-soft">{why(`/fields/${p}`)}</td>
              <td>
                <Button quiet onClick={() => take([p], false)} aria-label={`Take ${p}`}>
                  Take
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}
