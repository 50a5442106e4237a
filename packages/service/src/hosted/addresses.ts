/** Where hosted calendars are, at the door and in lanes alike. */
export const CALENDARS = '/dav/calendars/';

export const calendarHref = (slug: string): string => `${CALENDARS}${encodeURIComponent(slug)}/`;
export const objectHref = (slug: string, name: string): string => `${calendarHref(slug)}${encodeURIComponent(name)}`;

/** Which calendar, and which object on it, an address names; null: none of ours. */
export function placeAt(href: string): { slug: string; name: string | null } | null {
  if (!href.startsWith(CALENDARS)) return null;
  const segments = href.slice(CALENDARS.length).split('/');
  const [slug, name] = segments.map(decoded);
  if (slug === undefined || slug === '' || segments.length > 2) return null;
  return { slug, name: name === undefined || name === '' ? null : name };
}

function decoded(segment: string): string {
  try {
    return decodeURIComponent(segment);
  } catch {
    return segment;
  }
}
