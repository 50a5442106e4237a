/**
 * What can go wrong outside. `unreachable`, `timed out`, `throttled` and `broken` pass with time; `not authorised`,
 * `forbidden address` and `nonsense` want a person; `refused` and `exists` concern one item; `changed meanwhile` and
 * `gone` are answers to a conditional write or a read.
 */
export type Trouble =
  | 'unreachable'
  | 'timed out'
  | 'throttled'
  | 'broken'
  | 'not authorised'
  | 'forbidden address'
  | 'nonsense'
  | 'refused'
  | 'exists'
  | 'changed meanwhile'
  | 'gone';

/** An outside system did not do what was asked. The message is for people and holds no secrets. */
export class OutsideError extends Error {
  override name = 'OutsideError';
  readonly trouble: Trouble;
  readonly status: number | null;
  /** seconds that the system asked to be left alone */
  readonly retryAfter: number | null;
  /** where the item is that stands in the way, when the system says so */
  readonly href: string | null;
  /** it was we who would not wait any longer, or did not ask at all: that says nothing new of the system */
  readonly ours: boolean;
  /** it may have been done all the same: the answer did not come */
  readonly uncertain: boolean;

  constructor(
    trouble: Trouble,
    message: string,
    more: { status?: number; retryAfter?: number | null; href?: string | null; ours?: boolean; uncertain?: boolean; cause?: unknown } = {},
  ) {
    super(message, { cause: more.cause });
    this.trouble = trouble;
    this.status = more.status ?? null;
    this.retryAfter = more.retryAfter ?? null;
    this.href = more.href ?? null;
    this.ours = more.ours ?? false;
    this.uncertain = more.uncertain ?? false;
  }
}

/** Trouble that stops a whole run, because the next item would meet it too. */
export const stopsRun = (trouble: Trouble): boolean =>
  trouble === 'unreachable' ||
  trouble === 'timed out' ||
  trouble === 'throttled' ||
  trouble === 'not authorised' ||
  trouble === 'forbidden address' ||
  trouble === 'nonsense';
