import { MonsoonClient, ServiceProblem } from '@monsoon/contract/client';
import { QueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

/** The page was served by the service itself; the session cookie goes along by itself. */
export const client = new MonsoonClient({ address: '' });

export const queries = new QueryClient({
  defaultOptions: {
    // What is shown stays shown while it is asked for again; the service says when something changed.
    queries: { staleTime: 5_000, retry: (count, error) => count < 2 && (error as ServiceProblem).status === 0, refetchOnWindowFocus: true },
  },
});

/** Keys begin with the noun that the service announces when it changes. */
const concerned: Record<string, string[]> = {
  runs: ['runs', 'today'],
  lanes: ['lanes', 'today'],
  items: ['items', 'today'],
  journal: ['journal', 'today'],
  holds: ['holds', 'today'],
  guests: ['guests', 'items', 'today'],
  drafts: ['drafts'],
  people: ['people'],
  audits: ['audits'],
  paused: ['paused', 'today'],
  activity: ['activity'],
  systems: ['systems', 'today'],
  feeds: ['feeds'],
  calendars: ['calendars'],
};

/** Listens to the service and asks again for what changed. @returns whether the line is open */
export function useLive(): boolean {
  const [open, setOpen] = useState(true);
  useEffect(() => {
    const source = new EventSource('/api/v1/changes');
    const refresh = (event: MessageEvent<string>) => {
      const nouns = new Set((JSON.parse(event.data) as string[]).flatMap((noun) => concerned[noun] ?? []));
      for (const noun of nouns) void queries.invalidateQueries({ queryKey: [noun] });
    };
    source.addEventListener('changed', refresh);
    source.addEventListener('hello', () => {
      setOpen(true);
      // Whatever was missed while the line was down.
      void queries.invalidateQueries();
    });
    source.onerror = () => setOpen(false);
    return () => source.close();
  }, []);
  return open;
}

export const reasonOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
export const isSignedOut = (error: unknown): boolean => error instanceof ServiceProblem && error.status === 401;
