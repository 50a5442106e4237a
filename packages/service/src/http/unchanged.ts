import type { Request } from 'express';

/**
 * Does the asker have just this already (RFC 9110, 13.1.2 and 13.1.3)? `Cache-Control: no-cache` beside it only asks that no cache on
 * the way answers from memory.
 * @param modified when it changed last; null: not known
 */
export function isUnchanged(request: Request, etag: string, modified: Date | null): boolean {
  const given = request.get('if-none-match');
  if (given !== undefined) {
    const bare = (tag: string) => tag.replace(/^W\//, '');
    return given.trim() === '*' || (given.match(/(?:W\/)?"[^"]*"/g) ?? []).some((tag) => bare(tag) === bare(etag));
  }
  const since = httpDate(request.get('if-modified-since'));
  return since !== null && modified !== null && seconds(modified) <= since;
}

/** Did something change after the time that a request names (RFC 9110, 13.1.4)? */
export const isModifiedSince = (request: Request, modified: Date): boolean => {
  const since = httpDate(request.get('if-unmodified-since'));
  return since !== null && seconds(modified) > since;
};

/** Dates of HTTP are in seconds. */
const seconds = (date: Date): number => Math.floor(date.getTime() / 1000);

/** @returns seconds since 1970; null for what is no date: such a condition is ignored */
function httpDate(text: string | undefined): number | null {
  const at = text !== undefined && /GMT$/.test(text.trim()) ? Date.parse(text) : Number.NaN;
  return Number.isNaN(at) ? null : at / 1000;
}
