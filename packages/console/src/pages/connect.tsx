import type { KindAnswer, SettingShape, SystemAnswer } from '@monsoon/contract';
import { ServiceProblem } from '@monsoon/contract/client';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Button, Card, Empty, Failure, PageHead } from '../parts/basics.tsx';
import { read, SettingFields, Unreadable, type Written, write } from '../parts/setting-fields.tsx';
import { Steps, useCheck } from '../parts/steps.tsx';

/** Connecting a system: its kind, its settings, and a check before anything is kept. */
export function Connect() {
  const kinds = useQuery({ queryKey: ['kinds'], queryFn: () => client.kinds(), staleTime: Number.POSITIVE_INFINITY });
  const [kind, setKind] = useState<KindAnswer | null>(null);
  return (
    <>
      <PageHead title="Connect a system" note={kind === null ? 'What is it?' : kind.hint}>
        {kind !== null && <Button onClick={() => setKind(null)}>Another kind</Button>}
      </PageHead>
      {kinds.isError && <Failure>{reasonOf(kinds.error)}</Failure>}
      {kind === null && (
        <ul className="grid list-none gap-3 p-0 md:grid-cols-2 lg:grid-cols-3">
          {kinds.data?.items.map((k) => (
            <li key={k.kind}>
              <button
                type="button"
                onClick={() => setKind(k)}
                className="h-full w-full rounded-md border border-line bg-card px-4 py-3 text-left hover:bg-sunk"
              >
                <span className="block font-semibold">{k.label}</span>
                <span className="text-soft">{k.hint}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {kind !== null && <SystemForm key={kind.kind} kind={kind} system={null} />}
    </>
  );
}

const shortName = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 63);

/** @param system the one that is changed; null: a new one */
export function SystemForm({ kind, system, onSaved }: { kind: KindAnswer; system: SystemAnswer | null; onSaved?: () => void }) {
  const go = useNavigate();
  const [name, setName] = useState(system?.name ?? '');
  const [slug, setSlug] = useState<string | null>(system?.slug ?? null);
  const [settings, setSettings] = useState<Written>(() => (system === null ? {} : write(kind.settings, system.settings as Record<string, unknown>)));
  const [secrets, setSecrets] = useState<Written>({});
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const { steps, running, wrong: trouble, result, check } = useCheck();
  /** What the form says; null, with the place marked, when it cannot be read. */
  const said = () => {
    setWrong({});
    try {
      return { settings: read(kind.settings, settings), secrets: read(kind.secrets, secrets) };
    } catch (error) {
      if (!(error instanceof Unreadable)) throw error;
      setWrong({ [`settings.${error.setting}`]: error.message });
      return null;
    }
  };
  const mark = (error: unknown) => {
    if (!(error instanceof ServiceProblem)) return;
    setWrong(Object.fromEntries(error.problems.map((p) => [p.pointer.slice(1).split('/').slice(0, 2).join('.'), p.reason])));
  };
  const save = useMutation({
    mutationFn: async () => {
      const parts = said();
      if (parts === null) throw new Error('one setting cannot be read');
      if (system === null) return client.connect({ slug: slug ?? shortName(name), name, kind: kind.kind, ...parts });
      // What was emptied is taken away.
      const gone = Object.fromEntries(
        Object.keys(system.settings)
          .filter((k) => !(k in parts.settings))
          .map((k) => [k, null]),
      );
      return client.changeSystem(system.slug, {
        name,
        settings: { ...gone, ...parts.settings },
        ...(Object.keys(parts.secrets).length > 0 ? { secrets: parts.secrets } : {}),
      });
    },
    onError: mark,
    onSuccess: (saved) => {
      void queries.invalidateQueries({ queryKey: ['systems'] });
      if (onSaved !== undefined) onSaved();
      else void go(`/systems/${saved.slug}`);
    },
  });
  const ofPart = (part: string) =>
    Object.fromEntries(
      Object.entries(wrong).flatMap(([at, reason]): [string, string][] => (at.startsWith(`${part}.`) ? [[at.slice(part.length + 1), reason]] : [])),
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <Card title={kind.label}>
        <div className="grid gap-1 px-3 py-1.5 md:grid-cols-[14rem_minmax(0,1fr)]">
          <label htmlFor="system-name" className="pt-1 font-medium">
            Name <span className="text-soft">(needed)</span>
          </label>
          <input
            id="system-name"
            required
            maxLength={200}
            value={name}
            onChange={(e) => setName(e.target.value)}
            className="w-full rounded border border-line bg-paper px-2 py-1"
          />
        </div>
        {system === null && (
          <div className="grid gap-1 px-3 py-1.5 md:grid-cols-[14rem_minmax(0,1fr)]">
            <label htmlFor="system-slug" className="pt-1 font-medium">
              Short name
            </label>
            <div>
              <input
                id="system-slug"
                value={slug ?? shortName(name)}
                onChange={(e) => setSlug(e.target.value)}
                className="w-full rounded border border-line bg-paper px-2 py-1"
              />
              <p className="text-[0.9rem] text-soft">for lane files and the command line</p>
            </div>
          </div>
        )}
        {[false, true].map((rare) => {
          const shown = (shapes: SettingShape[]) => shapes.filter((x) => x.rare === rare);
          const fields = (
            <>
              <SettingFields
                of="settings"
                shapes={shown(kind.settings)}
                written={settings}
                wrong={ofPart('settings')}
                onChange={(n, v) => setSettings((all) => ({ ...all, [n]: v }))}
              />
              <SettingFields
                of="secrets"
                shapes={shown(kind.secrets)}
                secret
                kept={system?.secrets ?? []}
                written={secrets}
                wrong={ofPart('secrets')}
                onChange={(n, v) => setSecrets((all) => ({ ...all, [n]: v }))}
              />
            </>
          );
          if (!rare) return <div key="often">{fields}</div>;
          const all = [...kind.settings, ...kind.secrets];
          // What stands in it, or is wrong in it, must be seen.
          const used = all.some(
            (x) =>
              x.rare && (settings[x.name] !== undefined || wrong[`settings.${x.name}`] !== undefined || wrong[`secrets.${x.name}`] !== undefined),
          );
          return all.some((x) => x.rare) ? (
            <details key="rarely" open={used || undefined} className="border-t border-line">
              <summary className="px-3 py-2 font-medium">More settings</summary>
              {fields}
            </details>
          ) : null;
        })}
        {save.isError && <Failure>{reasonOf(save.error)}</Failure>}
        <div className="flex flex-wrap gap-2 border-t border-line px-3 py-3">
          {system === null && (
            <Button
              disabled={running}
              onClick={() => {
                const parts = said();
                if (parts !== null) void check({ kind: kind.kind, ...parts });
              }}
            >
              {running ? 'Checking...' : 'Check first'}
            </Button>
          )}
          <Button type="submit" disabled={save.isPending}>
            {system === null ? 'Connect' : 'Save'}
          </Button>
          {system === null && result !== null && (
            <span className="self-center text-soft">
              {result.ok ? 'Everything was found. Nothing is kept until you connect.' : 'Fix what failed, or connect all the same.'}
            </span>
          )}
        </div>
      </Card>
      {system === null && (steps.length > 0 || running || trouble !== null) && (
        <Card title="Check">
          <Steps steps={steps} running={running} wrong={trouble} />
        </Card>
      )}
      {system === null && kind.kind === 'json-api' && (
        <Empty>
          A descriptor says how the program's records are listed, read and written. A first one can be had from its OpenAPI document:{' '}
          <code>monsoon systems draft-descriptor -f FILE</code>. <Link to="/systems">Back to the systems</Link>
        </Empty>
      )}
    </form>
  );
}
