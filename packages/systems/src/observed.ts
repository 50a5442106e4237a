import { masked } from './http/masked.ts';
import { newsOf } from './http/watched.ts';
import type { OpenOptions } from './kind.ts';
import { OutsideError } from './outside-error.ts';

/** Work on a system that is not asked over HTTP: counted and recorded, and its health reported, as HTTP calls are. */
export type Observed = <T>(what: string, work: () => Promise<T>, signal?: AbortSignal) => Promise<T>;

/** Troubles that say something about the system, not about one item. */
const ILL = new Set(['unreachable', 'timed out', 'throttled', 'broken', 'not authorised', 'forbidden address']);

/** @param verb what is recorded as the method @param address what is recorded as the address */
export function observed(verb: string, address: string, options: OpenOptions, secrets: readonly string[] = []): Observed {
  const tell = newsOf(options.health);
  return async (what, work, signal) => {
    await options.meter?.admit(signal);
    const started = performance.now();
    const note = (trouble: string | null) =>
      options.record?.({
        at: new Date().toISOString(),
        method: verb,
        url: masked(`${address} ${what}`, secrets).slice(0, 500),
        status: null,
        took: Math.round(performance.now() - started),
        sent: 0,
        received: 0,
        trouble: trouble === null ? null : masked(trouble, secrets).slice(0, 300),
      });
    try {
      const result = await work();
      note(null);
      tell('well', 'answers');
      return result;
    } catch (error) {
      note(error instanceof OutsideError ? error.message : (error as Error).name);
      if (error instanceof OutsideError) {
        error.message = masked(error.message, secrets);
        if (error.ours) throw error;
        if (ILL.has(error.trouble)) tell('failing', error.message, error.trouble);
        else tell('well', 'answers');
      }
      throw error;
    }
  };
}
