import { statusLine } from './multistatus.ts';
import { DavProblem } from './problem.ts';
import { namesOf, propertyOf } from './properties.ts';
import type { DavCall, Resource } from './resources.ts';
import { childOf, DAV, type Element, element, keyOf, type Name } from './xml.ts';

/** What a PROPFIND or a report asks of each resource. */
export type Wanted = { names: Name[] } | 'all' | 'names';

/** Names of properties in one request: programs ask for some tens. */
const MOST_NAMES = 200;

/** The names inside an element, each once. @throws DavProblem where there are too many */
export function namesIn(parent: Element | undefined): Name[] {
  const names = new Map(parent?.children.map((c) => [keyOf(c.name), c.name]));
  if (names.size > MOST_NAMES) throw new DavProblem(403, `it names ${names.size} properties; at most ${MOST_NAMES} are given at once`);
  return [...names.values()];
}

/** @returns null where the body asks for something else. @throws DavProblem */
export function wantedIn(asked: Element | null): Wanted | null {
  if (asked === null || childOf(asked, DAV('allprop')) !== undefined) return 'all';
  if (childOf(asked, DAV('propname')) !== undefined) return 'names';
  const prop = childOf(asked, DAV('prop'));
  return prop === undefined ? null : { names: namesIn(prop) };
}

const propstat = (elements: string[], status: number) =>
  elements.length === 0 ? '' : `<D:propstat><D:prop>${elements.join('')}</D:prop>${statusLine(status)}</D:propstat>`;

/**
 * The propstats of a resource.
 * @param given properties that the caller computed already, by {@link keyOf}: inner XML
 */
export function propstats(
  resource: Resource,
  wanted: Wanted,
  { door, caller }: Pick<DavCall, 'door' | 'caller'>,
  given?: ReadonlyMap<string, string>,
): string {
  if (wanted === 'names')
    return `<D:propstat><D:prop>${namesOf(resource, caller, door, true)
      .map((n) => element(n))
      .join('')}</D:prop>${statusLine(200)}</D:propstat>`;
  const names = wanted === 'all' ? namesOf(resource, caller, door, false) : wanted.names;
  const found: string[] = [];
  const missing: string[] = [];
  for (const name of names) {
    const own = given?.get(keyOf(name));
    const property = own === undefined ? propertyOf(resource, name, caller, door) : { inner: own };
    if (property === null) missing.push(element(name));
    else found.push('whole' in property ? property.whole : element(name, property.inner));
  }
  return propstat(found, 200) + propstat(missing, 404) || `<D:propstat><D:prop/>${statusLine(200)}</D:propstat>`;
}
