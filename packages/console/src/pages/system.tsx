import type { SystemAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Ago, Badge, Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { Dialog } from '../parts/dialog.tsx';
import { Health } from '../parts/health.tsx';
import { Holdings } from '../parts/holdings.tsx';
import { Steps, useCheck } from '../parts/steps.tsx';
import { SystemForm } from './connect.tsx';

/** One system: how it does, what it holds, what was asked of it. */
export function System() {
  const { system: slug = '' } = useParams();
  const system = useQuery({ queryKey: ['systems', slug], queryFn: () => client.system(slug) });
  if (system.isError)
    return (
      <>
        <PageHead title="System" />
        <Failure>{reasonOf(system.error)}</Failure>
      </>
    );
  return system.data === undefined ? <PageHead title="System" /> : <Found system={system.data} />;
}

function Found({ system }: { system: SystemAnswer }) {
  const go = useNavigate();
  const { steps, running, wrong, check } = useCheck();
  const [trying, setTrying] = useState(false);
  const [changing, setChanging] = useState(false);
  const kinds = useQuery({ queryKey: ['kinds'], queryFn: () => client.kinds(), staleTime: Number.POSITIVE_INFINITY });
  const kind = kinds.data?.items.find((k) => k.kind === system.kind);
  const authorise = useMutation({
    mutationFn: () => client.authorise(system.slug, `/systems/${system.slug}`),
    onSuccess: ({ url }) => location.assign(url),
  });
  const disconnect = useMutation({
    mutationFn: () => client.disconnect(system.slug),
    onSuccess: () => {
      // It is not asked for any more.
      void go('/systems');
      queries.removeQueries({ queryKey: ['systems', system.slug] });
      void queries.invalidateQueries({ queryKey: ['systems'], exact: true });
    },
  });
  const run = () => check(system.slug).then(() => queries.invalidateQueries({ queryKey: ['systems'] }));
  // A system that was just connected is checked at once.
  const unchecked = system.checkedAt === null && system.consent !== 'needed';
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the page opens
  useEffect(() => {
    if (unchecked) void run();
  }, [unchecked]);
  return (
    <>
      <PageHead
        title={system.name}
        note={
          <>
            <Link to="/systems">Systems</Link>, {kind?.label ?? system.kind}, <span className="break-all">{system.address}</span>
          </>
        }
      >
        {system.consent !== null && (
          <Button needs="administer" onClick={() => authorise.mutate()} disabled={authorise.isPending}>
            {system.consent === 'needed' ? 'Authorise' : 'Authorise again'}
          </Button>
        )}
        <Button needs="operate" onClick={() => void run()} disabled={running}>
          Check now
        </Button>
        {system.kind === 'hosted' ? (
          <Link to="/feeds" className="inline-flex items-center rounded border border-line bg-card px-3 py-1 font-medium hover:bg-sunk">
            Calendars and devices
          </Link>
        ) : (
          <>
            <Button needs="administer" onClick={() => setTrying(true)}>
              Try
            </Button>
            <Button needs="administer" onClick={() => setChanging(true)} disabled={kind === undefined}>
              Change
            </Button>
            <Button
              danger
              needs="administer"
              onClick={() => disconnect.mutate()}
              disabled={system.lanes.length > 0}
              title={system.lanes.length > 0 ? `in use by ${system.lanes.join(', ')}` : undefined}
            >
              Disconnect
            </Button>
          </>
        )}
      </PageHead>
      {system.lapsed !== null && (
        <Failure>
          Its credentials are no longer accepted since <Ago at={system.lapsed.at} />: {system.lapsed.reason}. Until they are renewed,{' '}
          {system.lanes.join(', ') || 'nothing'} {system.lanes.length === 1 ? 'is' : 'are'} paused.
        </Failure>
      )}
      {system.consent === 'needed' && (
        <Failure>Monsoon is not authorised there yet. Press Authorise: you are sent there to consent, and come back.</Failure>
      )}
      {authorise.isError && <Failure>{reasonOf(authorise.error)}</Failure>}
      {disconnect.isError && <Failure>{reasonOf(disconnect.error)}</Failure>}
      <div className="grid gap-5 lg:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]">
        <div>
          <Card
            title="Check"
            aside={
              <span className="text-soft">
                last <Ago at={system.checkedAt} />
              </span>
            }
          >
            {steps.length === 0 && !running && wrong === null ? (
              <Empty>{system.health.detail === '' ? 'Not checked yet.' : `${system.health.detail}.`} Checked by itself once a day.</Empty>
            ) : (
              <Steps steps={steps} running={running} wrong={wrong} />
            )}
          </Card>
          {system.consent !== 'needed' && <Holdings system={system} />}
        </div>
        <div>
          <Card title="How it does">
            <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1 px-3 py-2">
              <dt className="text-soft">Health</dt>
              <dd>
                <Health system={system} />
              </dd>
              <dt className="text-soft">Push</dt>
              <dd>{system.push ? 'changes are notified at once' : 'none; found by the regular check'}</dd>
              <dt className="text-soft">Calls in {system.calls.month}</dt>
              <dd>
                {system.calls.used}
                {system.calls.allowance === null ? '' : ` of ${system.calls.allowance}`}{' '}
                {system.calls.allowance !== null && system.calls.used >= system.calls.allowance * 0.8 && <Badge tone="held">nearly used up</Badge>}
              </dd>
              <dt className="text-soft">Lanes</dt>
              <dd>
                {system.lanes.length === 0 && 'none'}
                {system.lanes.map((l) => (
                  <Link key={l} to={`/lanes/${l}`} className="mr-2">
                    {l}
                  </Link>
                ))}
              </dd>
            </dl>
          </Card>
          {system.drift.length > 0 && (
            <Card title="Fields that changed">
              <ul className="px-3 py-2">
                {system.drift.map((d) => (
                  <li key={`${d.at} ${d.collection} ${d.field}`}>
                    <Badge tone="records">{d.collection}</Badge> {d.field} {d.what}, <Ago at={d.at} />
                  </li>
                ))}
              </ul>
            </Card>
          )}
          <Calls slug={system.slug} />
        </div>
      </div>
      {trying && <TryDialog system={system} onClose={() => setTrying(false)} />}
      {changing && kind !== undefined && (
        <Dialog open onClose={() => setChanging(false)} title={`Change ${system.name}`} description="Secrets that are left empty stay as they are.">
          <div className="p-4">
            <SystemForm kind={kind} system={system} onSaved={() => setChanging(false)} />
          </div>
        </Dialog>
      )}
    </>
  );
}

function Calls({ slug }: { slug: string }) {
  const calls = useQuery({ queryKey: ['systems', slug, 'calls'], queryFn: () => client.calls(slug) });
  return (
    <Card title="Last calls">
      {calls.isError && <Failure>{reasonOf(calls.error)}</Failure>}
      {calls.data?.items.length === 0 && <Empty>Nothing was asked of it yet.</Empty>}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
      <section className="max-h-96 overflow-auto" tabIndex={0} aria-label="Last calls">
        <table className="text-[0.87rem]">
          <tbody>
            {calls.data?.items.slice(0, 60).map((c, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two calls may be alike in everything
              <tr key={`${c.at} ${i}`}>
                <td className="whitespace-nowrap text-soft">
                  <Ago at={c.at} />
                </td>
                <td>{c.method}</td>
                <td className="break-words" title={c.url}>
                  {placeOf(c.url)}
                </td>
                <td className="text-right">{c.status ?? (c.trouble === null ? '' : <Badge tone="failed">{c.trouble}</Badge>)}</td>
                <td className="text-right whitespace-nowrap text-soft tabular-nums">{c.took} ms</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </Card>
  );
}

/** JSON with its lines apart; what was cut short, as it is. */
const pretty = (body: string): string => {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
};

/** The path of an address; of work that has none, what was done. */
const placeOf = (url: string): string => {
  const text = url.includes(' ') ? url.slice(url.indexOf(' ') + 1) : url.replace(/^\w+:\/\/[^/\s]+/, '');
  return text.length > 80 ? `${text.slice(0, 79)}...` : text;
};

function TryDialog({ system, onClose }: { system: SystemAnswer; onClose: () => void }) {
  const tried = useQuery({ queryKey: ['try', system.slug], queryFn: () => client.trySystem(system.slug), staleTime: 0, gcTime: 0, retry: false });
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Try: ${system.name}`}
      description="Everything that its settings allow, reading only. Secrets are masked."
      actions={<Button onClick={onClose}>Close</Button>}
    >
      {tried.isPending && <Empty>Asking...</Empty>}
      {tried.isError && <Failure>{reasonOf(tried.error)}</Failure>}
      {tried.data?.steps.map((s) => (
        <details key={s.name} className="border-b border-line px-4 py-2">
          <summary>
            {s.outcome === 'failed' ? <Badge tone="failed">failed</Badge> : s.outcome === 'warning' ? <Badge>warning</Badge> : 'ok'}{' '}
            <span className="font-medium">{s.name}</span>: {s.detail}
          </summary>
          {s.exchanges.length === 0 && <p className="text-soft">Nothing more had to be asked for this.</p>}
          {s.exchanges.map((e, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two exchanges may be alike in everything
            <div key={i} className="mt-2 grid gap-1 text-[0.87rem]">
              <code className="break-all">
                {e.method} {e.url}
              </code>
              {e.requestBody !== '' && <pre className="overflow-auto rounded bg-sunk p-2">{e.requestBody}</pre>}
              <code>{e.status === null ? e.trouble : `${e.status} ${e.answerHeaders['content-type'] ?? ''}`}</code>
              {e.answerBody !== '' && (
                <pre className="max-h-60 overflow-auto rounded bg-sunk p-2 break-words whitespace-pre-wrap">{pretty(e.answerBody)}</pre>
              )}
            </div>
          ))}
        </details>
      ))}
    </Dialog>
  );
}
