import type { Request } from 'express';

/**
 * Does the asker have just this already (RFC 9110, 13.1.2)? `Cache-Control: no-cache` beside it only asks that no cache on the
 * way answers from memory.
 */
export function isUnchanged(request: Request, etag: string): boolean {
  const given = request.get('if-none-match');
  if (given === undefined) return false;
  const bare = (tag: string) => tag.replace(/^W\//, '');
  return given.trim() === '*' || (given.match(/(?:W\/)?"[^"]*"/g) ?? []).some((tag) => bare(tag) === bare(etag));
}
