/**
 * One spelling for one resource: the path with every segment decoded and encoded again. Servers return the same
 * resource absolute or relative, with `@` and quotes literal or encoded.
 */
export function canonicalHref(href: string, base: string): string {
  const path = new URL(href, base).pathname;
  return path
    .split('/')
    .map((segment) => {
      try {
        return encodeURIComponent(decodeURIComponent(segment));
      } catch {
        return encodeURIComponent(segment);
      }
    })
    .join('/');
}

export const withSlash = (path: string): string => (path.endsWith('/') ? path : `${path}/`);
