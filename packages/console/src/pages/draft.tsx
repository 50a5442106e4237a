import type { LaneDraftAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Tabs } from 'radix-ui';
import { useMemo } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import type { Values } from '../editor/conditions.tsx';
import { DeparturesSection } from '../editor/departures.tsx';
import { DirectionSection } from '../editor/direction.tsx';
import { type Editing, useEditing } from '../editor/draft.ts';
import { GuestsSection } from '../editor/guests.tsx';
import { Maps } from '../editor/maps.tsx';
import { Prove } from '../editor/prove.tsx';
import { Samples } from '../editor/samples.tsx';
import { Sides } from '../editor/sides.tsx';
import { Suggested } from '../editor/suggested.tsx';
import { Timetable } from '../editor/timetable.tsx';
import { Moments } from '../editor/whens.tsx';
import { Which } from '../editor/which.tsx';
import { Button, Failure, PageHead } from '../parts/basics.tsx';
import { FeedAddress } from '../parts/feeds.tsx';

const sections = [
  ['sides', 'Sides', ['/name', '/records', '/calendar']],
  ['direction', 'Direction', ['/direction', '/may', '/zone']],
  ['which', 'Which', ['/filter', '/private', '/window', '/startLine', '/events']],
  ['fields', 'Fields', ['/moments', '/fields', '/defaults', '/link']],
  ['guests', 'Guests', ['/invitations', '/events/organisedByOthers', '/events/ownAddresses']],
  ['departures', 'Removals and conflicts', ['/departures', '/sets', '/conflicts', '/guard', '/foreignEdits']],
  ['timetable', 'Timetable', ['/checkEvery', '/auditEvery', '/quiet', '/notify']],
  ['prove', 'Prove it', []],
] as const;

export function DraftPage() {
  const id = useParams()['draft']!;
  const draft = useQuery({
    queryKey: ['draft', id],
    queryFn: () => client.draft(id),
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnMount: 'always',
  });
  if (draft.isError)
    return (
      <>
        <PageHead title="No such draft" note={<Link to="/lanes">Go to the lanes</Link>} />
        <Failure>{reasonOf(draft.error)}</Failure>
      </>
    );
  // What is edited here began with what was read when the page was opened.
  return draft.data === undefined || !draft.isFetchedAfterMount ? null : <Editor key={id} draft={draft.data} />;
}

function Editor({ draft }: { draft: LaneDraftAnswer }) {
  const editing = useEditing(draft);
  const { lane, saving, preview } = editing;
  const go = useNavigate();
  const [search, setSearch] = useSearchParams();
  const section = sections.find(([name]) => name === search.get('section'))?.[0] ?? 'sides';
  const { system, collection } = lane.records ?? {};
  const known = (system ?? '') !== '' && (collection ?? '') !== '';
  const collections = useQuery({
    queryKey: ['systems', system, 'collections'],
    queryFn: () => client.collections(system!),
    enabled: (system ?? '') !== '',
  });
  const sample = useQuery({
    queryKey: ['sample', system, collection],
    queryFn: () => client.sample(system!, collection!),
    enabled: known,
    staleTime: 60_000,
  });
  const fields = useMemo(() => (collections.data?.items.find((c) => c.name === collection)?.fields ?? []) as never, [collections.data, collection]);
  const values = useMemo((): Values => Object.fromEntries((sample.data?.fields ?? []).map((f) => [f.name, f.values])), [sample.data]);
  const drop = useMutation({
    mutationFn: () => client.dropDraft(draft.id),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['drafts'] });
      void go(draft.lane === null ? '/lanes' : `/lanes/${draft.lane}`);
    },
  });
  const found = (pointers: readonly string[]) =>
    (preview?.problems ?? []).filter((p) => pointers.some((at) => p.pointer === at || p.pointer.startsWith(`${at}/`))).length;
  const all: Editing = editing;
  const at = sections.findIndex(([name]) => name === section);
  const next = sections[at + 1];
  return (
    <>
      <PageHead
        title={lane.name === undefined || lane.name === '' ? 'A new lane' : lane.name}
        note={
          draft.lane === null ? (
            'A draft. Nothing is written on either side until you start it.'
          ) : (
            <>
              A draft beside the live lane <Link to={`/lanes/${draft.lane}`}>{draft.lane}</Link>, started from version {draft.laneVersion}.
            </>
          )
        }
      >
        <span role="status" className={`self-center ${saving.state === 'failed' ? 'text-failed' : 'text-soft'}`}>
          {saving.state === 'failed' ? `Not saved: ${saving.reason}` : saving.state === 'saved' ? 'Saved as a draft' : 'Saving...'}
        </span>
        {saving.state === 'failed' && saving.overtaken && <Button onClick={() => location.reload()}>Read it again</Button>}
        <Button quiet onClick={() => drop.mutate()} disabled={drop.isPending}>
          Throw the draft away
        </Button>
      </PageHead>
      <FeedAddress of={lane.calendar?.calendar} />
      <Tabs.Root value={section} onValueChange={(value) => setSearch({ section: value }, { replace: true })}>
        <Tabs.List aria-label="Sections of the lane" className="mb-3 flex flex-wrap gap-1 border-b border-line">
          {sections.map(([name, label, pointers]) => (
            <Tabs.Trigger
              key={name}
              value={name}
              className="-mb-px rounded-t border border-transparent px-3 py-1.5 font-medium text-soft hover:text-ink data-[state=active]:border-line data-[state=active]:border-b-card data-[state=active]:bg-card data-[state=active]:text-ink"
            >
              {label}
              {found(pointers) > 0 && (
                <span className="ml-1.5 rounded bg-failed-wash px-1.5 text-[0.87rem] text-failed tabular-nums">{found(pointers)}</span>
              )}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <div className={section === 'prove' ? '' : 'grid items-start gap-5 lg:grid-cols-[minmax(0,1fr)_25rem]'}>
          <div>
            <Tabs.Content value="sides">
              <Sides {...all} />
            </Tabs.Content>
            <Tabs.Content value="direction">
              <DirectionSection {...all} />
            </Tabs.Content>
            <Tabs.Content value="which">
              <Which {...all} fields={fields} values={values} />
            </Tabs.Content>
            <Tabs.Content value="fields">
              <Suggested {...all} />
              <Moments {...all} fields={fields} />
              <Maps {...all} fields={fields} values={values} collections={(collections.data?.items ?? []) as never} />
            </Tabs.Content>
            <Tabs.Content value="guests">
              <GuestsSection {...all} />
            </Tabs.Content>
            <Tabs.Content value="departures">
              <DeparturesSection {...all} fields={fields} />
            </Tabs.Content>
            <Tabs.Content value="timetable">
              <Timetable {...all} />
            </Tabs.Content>
            <Tabs.Content value="prove">
              <Prove {...all} />
            </Tabs.Content>
            {next !== undefined && <Button onClick={() => setSearch({ section: next[0] })}>Next: {next[1]}</Button>}
          </div>
          {section !== 'prove' && (
            <aside aria-label="What the lane does">
              <Samples editing={all} failure={editing.previewFailure} />
            </aside>
          )}
        </div>
      </Tabs.Root>
    </>
  );
}
