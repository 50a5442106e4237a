import type { LaneDraft } from '@monsoon/arranging';
import type { LaneDraftAnswer, PreviewAnswer } from '@monsoon/contract';
import { ServiceProblem } from '@monsoon/contract/client';
import type { Departures, FieldMap, LaneDefinition, MappableName, Permissions, WhenSource } from '@monsoon/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { client, queries, reasonOf } from '../data.ts';

export type Direction = '->' | '<-' | '<->';
export type Maps = Partial<Record<MappableName, FieldMap | FieldMap[]>>;
export interface EditedMoment {
  name: string;
  when?: WhenSource;
  direction?: Direction | 'once';
  filter?: string | null;
  fields?: Maps;
}

/** A lane file as far as it is written: conditions as text, and any part may be missing. */
export interface Edited {
  name?: string;
  records?: { system?: string; collection?: string };
  calendar?: { system?: string; calendar?: string };
  direction?: Direction;
  may?: { records?: Partial<Permissions>; calendar?: Partial<Permissions> };
  zone?: string;
  filter?: string | null;
  events?: {
    filter?: string | null;
    private?: string;
    repeating?: string;
    otherLanes?: string;
    moment?: string | null;
    organisedByOthers?: string;
    ownAddresses?: string[];
  };
  invitations?: Partial<LaneDefinition['invitations']>;
  private?: { field: string; treat: string } | null;
  window?: { behind: number; ahead: number } | null;
  startLine?: string | null;
  moments?: EditedMoment[];
  fields?: Maps;
  defaults?: Record<string, string | number | boolean>;
  departures?: Partial<Departures>;
  sets?: { eventDeleted?: Record<string, unknown>; eventCancelled?: Record<string, unknown> };
  conflicts?: { rule?: string; tolerance?: number; fields?: Record<string, string> };
  foreignEdits?: string;
  guard?: { removals?: number; removedPercent?: number; rewrittenPercent?: number };
  checkEvery?: number;
  auditEvery?: number;
  quiet?: { from: string; until: string } | null;
  notify?: string[];
}

/** What every section of the editor works with. */
export interface Editing {
  lane: Edited;
  draft: LaneDraftAnswer;
  /** takes a change over at once; it is saved, and shown in the samples, a moment later */
  change: (change: (lane: Edited) => Edited) => void;
  slug: string;
  changeSlug: (slug: string) => void;
  preview: PreviewAnswer | undefined;
  /** what was found about a setting or below it */
  wrong: (pointer: string) => string[];
  /** shows another record beside the picked ones */
  showAlso: (record: string) => void;
  /** saves now, before something is done with the draft */
  saved: () => Promise<void>;
}

const SAVE_AFTER = 600;
const SHOW_AFTER = 250;

function useSettled<T>(value: T, pause: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), pause);
    return () => clearTimeout(timer);
  }, [value, pause]);
  return settled;
}

export type Saving = { state: 'saved' | 'saving' } | { state: 'failed'; reason: string; overtaken: boolean };

/** The draft while it is being edited here: typing changes it at once, and never waits for the network. */
export function useEditing(draft: LaneDraftAnswer): Editing & { saving: Saving; previewFailure: string | null } {
  const [lane, setLane] = useState<Edited>(draft.definition as Edited);
  const [slug, setSlug] = useState(draft.slug);
  const [saving, setSaving] = useState<Saving>({ state: 'saved' });
  const version = useRef(draft.version);
  const stored = useRef(JSON.stringify([draft.slug, draft.definition]));
  const latest = useRef<{ lane: Edited; slug: string }>({ lane, slug });
  latest.current = { lane, slug };
  const line = useRef<Promise<void>>(Promise.resolve());

  const saved = useCallback((): Promise<void> => {
    const save = async (): Promise<void> => {
      const now = latest.current;
      const text = JSON.stringify([now.slug, now.lane]);
      if (text === stored.current) return;
      setSaving({ state: 'saving' });
      const fine = /^([a-z0-9][a-z0-9-]{0,62})?$/.test(now.slug);
      try {
        const answer = await client.saveDraft(draft.id, { ...(fine ? { slug: now.slug } : {}), version: version.current, definition: now.lane });
        version.current = answer.version;
        stored.current = text;
        queries.setQueryData(['draft', draft.id], answer);
        setSaving({ state: 'saved' });
      } catch (error) {
        setSaving({ state: 'failed', reason: reasonOf(error), overtaken: error instanceof ServiceProblem && error.status === 412 });
        throw error;
      }
    };
    // One after the other: each saving names the one before it.
    line.current = line.current.catch(() => undefined).then(save);
    return line.current;
  }, [draft.id]);

  const text = JSON.stringify([slug, lane]);
  const settled = useSettled(text, SAVE_AFTER);
  useEffect(() => {
    if (settled !== stored.current) void saved().catch(() => undefined);
  }, [settled, saved]);
  // Leaving the page loses nothing either.
  useEffect(() => () => void saved().catch(() => undefined), [saved]);

  const shown = useSettled(JSON.stringify(lane), SHOW_AFTER);
  const [also, setAlso] = useState<string[]>([]);
  const preview = useQuery({
    queryKey: ['preview', draft.lane, shown, also],
    queryFn: () => client.preview({ definition: JSON.parse(shown) as LaneDraft, show: also, ...(draft.lane === null ? {} : { lane: draft.lane }) }),
    placeholderData: keepPreviousData,
    staleTime: 30_000,
    gcTime: 60_000,
  });
  const wrong = (pointer: string) =>
    (preview.data?.problems ?? []).flatMap((p) => (p.pointer === pointer || p.pointer.startsWith(`${pointer}/`) ? [p.reason] : []));
  const change = useCallback((how: (lane: Edited) => Edited) => setLane((now) => how(now)), []);
  return {
    lane,
    draft,
    change,
    slug,
    changeSlug: setSlug,
    preview: preview.data,
    wrong,
    showAlso: (record) => setAlso((now) => [...new Set([record, ...now])].slice(0, 20)),
    saved,
    saving,
    previewFailure: preview.isError ? reasonOf(preview.error) : null,
  };
}

export const shortName = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 63);

/** The zone that the browser is in, by name alone: its tables are not asked for times. */
export const ownZone = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC';

/** An object without what is empty. */
export const without = <T extends object>(object: T, key: keyof T): T => Object.fromEntries(Object.entries(object).filter(([k]) => k !== key)) as T;
