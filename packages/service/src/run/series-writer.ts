import { setImmediate as turn } from 'node:timers/promises';
import {
  certain,
  editOccurrences,
  type LaneContext,
  type OccurrenceEdit,
  occurrencesOf,
  placeName,
  placeOf,
  restoreOccurrence,
  type Window,
} from '@monsoon/core';
import { type Calendars, OutsideError, type StoredEvent } from '@monsoon/systems';
import { seriesIn } from './take-apart.ts';

/** How often a series that somebody else writes meanwhile is read and written again. */
const MOST_TRIES = 4;
/** One edit that waits to be written together with the others of its series. */
interface Waiting {
  edit: OccurrenceEdit;
  /** what the occurrence was called when the edit was planned */
  etag: string;
  done(): void;
  failed(error: unknown): void;
}

/**
 * Writes events and occurrences of series. An occurrence that is edited becomes an override, one that is removed an
 * excluded date; whatever else was written to the series meanwhile stays.
 */
export class SeriesWriter {
  readonly #inner: Calendars;
  readonly #context: LaneContext;
  readonly #window: Window;
  /** by calendar object */
  readonly #queues = new Map<string, Waiting[]>();

  constructor(inner: Calendars, context: LaneContext) {
    this.#inner = inner;
    this.#context = context;
    this.#window = { from: 0, until: 0, home: context.zone };
  }
  get #calendar(): string {
    return this.#context.definition.calendar.calendar;
  }

  /** Stores a new event; an occurrence that was taken out of its series goes back there. */
  async create(calendar: string, uid: string, text: string, signal: AbortSignal): Promise<{ href: string }> {
    const { object: seriesUid, id } = placeOf(uid);
    if (id === null) return this.#inner.create(calendar, uid, text, signal);
    const [there] = await this.#inner.withUid(calendar, seriesUid, signal);
    // Without its series, it is one that stands alone (RFC 4791, 4.1).
    if (there === undefined) return { href: placeName((await this.#inner.create(calendar, seriesUid, text, signal)).href, id) };
    const href = placeName(there.href, id);
    const back = restoreOccurrence(there.text, id, text, this.#editing);
    if (back === null) throw new OutsideError('exists', `${href} is in its series already`, { href });
    if (there.etag === null) throw noEtag(there.href);
    await this.#inner.change(there.href, there.etag, back, signal);
    return { href };
  }

  get #editing() {
    return { zones: this.#context.zones, lane: this.#context.lane, window: this.#window };
  }

  async change(href: string, etag: string, text: string, signal: AbortSignal): Promise<void> {
    const { object, id } = placeOf(href);
    if (id === null) await this.#inner.change(href, etag, text, signal);
    else await this.#together(object, { id, text }, etag, signal);
  }

  async remove(href: string, etag: string, signal: AbortSignal): Promise<void> {
    const { object, id } = placeOf(href);
    if (id === null) await this.#inner.remove(href, etag, signal);
    else await this.#together(object, { id, remove: true }, etag, signal);
  }

  /** Edits of one series that are started together, or while another is being written, are written together. */
  #together(object: string, edit: OccurrenceEdit, etag: string, signal: AbortSignal): Promise<void> {
    return new Promise((done, failed) => {
      const waiting = this.#queues.get(object);
      const one: Waiting = { edit, etag, done, failed };
      if (waiting !== undefined) {
        waiting.push(one);
        return;
      }
      this.#queues.set(object, [one]);
      void this.#drain(object, signal);
    });
  }

  async #drain(object: string, signal: AbortSignal): Promise<void> {
    await turn();
    for (;;) {
      const batch = certain(this.#queues.get(object), 'who waits has put its edit there').splice(0);
      if (batch.length === 0) break;
      try {
        await this.#writeTogether(object, batch, signal);
      } catch (error) {
        for (const one of batch) one.failed(error);
      }
    }
    this.#queues.delete(object);
  }

  /** Whatever else was written to the series meanwhile stays: what counts is that the edited occurrences are as they were. */
  async #writeTogether(object: string, batch: Waiting[], signal: AbortSignal): Promise<void> {
    for (let tries = 1; ; tries++) {
      const stored = (await this.#inner.read(this.#calendar, [object], signal)).get(object) ?? null;
      const now = this.#tags(
        stored,
        batch.map((one) => one.edit.id),
      );
      const current = batch.filter((one) => isCurrent(object, now, one));
      if (stored === null || current.length === 0) return;
      if (stored.etag === null) throw noEtag(object);
      const text = editOccurrences(
        stored.text,
        current.map((one) => one.edit),
        this.#editing,
      );
      try {
        if (text === null) await this.#inner.remove(object, stored.etag, signal);
        else await this.#inner.change(object, stored.etag, text, signal);
      } catch (error) {
        const isRace = error instanceof OutsideError && error.trouble === 'changed meanwhile';
        if (isRace && tries < MOST_TRIES) continue;
        throw error;
      }
      for (const one of current) one.done();
      return;
    }
  }

  /** What names the content of these occurrences now, by recurrence-id. */
  #tags(stored: StoredEvent | null, ids: string[]): Map<string, string> {
    const series = stored === null ? null : seriesIn(stored.text);
    if (series === null) return new Map();
    const asked = { ...this.#window, from: 0, until: 0, also: new Set(ids) };
    return new Map(occurrencesOf(series, asked, this.#context.zones).map((o) => [o.recurrenceId, o.tag]));
  }
}

/** Is the occurrence still as it was when the edit was planned? Otherwise the edit fails, with the reason. */
function isCurrent(object: string, now: ReadonlyMap<string, string>, { edit, etag, done, failed }: Waiting): boolean {
  const href = placeName(object, edit.id);
  const there = now.get(edit.id);
  if (there === etag) return true;
  if (there !== undefined) failed(new OutsideError('changed meanwhile', `the occurrence ${href} was changed in the meantime`));
  else if ('remove' in edit) done();
  else failed(new OutsideError('gone', `the occurrence ${href} is gone`));
  return false;
}

const noEtag = (href: string): OutsideError =>
  new OutsideError('refused', `the calendar server gives no ETag for ${href}, so it cannot be changed safely`);
