import { Multistatus, responseElement, statusLine } from './multistatus.ts';
import { DavProblem, errorElement } from './problem.ts';
import { namesIn, propstats, type Wanted, wantedIn } from './propstats.ts';
import { type DavCall, membersOf, type Resource } from './resources.ts';
import { childOf, DAV, type Element, isNamed, type Name } from './xml.ts';

/** PROPFIND (RFC 4918, 9.1), of a resource and what is directly inside it. */
export async function propfind(call: DavCall, resource: Resource, body: Element | null): Promise<void> {
  const { door, caller, request, response, turns } = call;
  const depth = request.get('depth') ?? 'infinity';
  if (depth !== '0' && depth !== '1')
    throw new DavProblem(403, 'say Depth: 0 or 1: everything below at once is not given', '<D:propfind-finite-depth/>');
  if (body !== null && !isNamed(body, DAV('propfind'))) throw new DavProblem(400, 'the body of PROPFIND is a DAV:propfind');
  const asked = wantedIn(body);
  if (asked === null) throw new DavProblem(400, 'DAV:propfind holds prop, allprop or propname');
  // allprop may name others beside (RFC 4918, 14.8).
  const include = namesIn(childOf(body, DAV('include')));
  const answer = new Multistatus(response);
  const add = async (one: Resource) =>
    answer.add(await turns.step(() => responseElement(one.href, propstats(one, asked, call) + more(one, include, call))));
  await add(resource);
  if (depth === '1')
    for await (const page of membersOf(door, caller, resource)) {
      for (const one of page) if (!turns.over) await add(one);
      if (!turns.over) continue;
      const reason = 'listing all of this at once takes too long: ask with sync-collection (RFC 6578), or for fewer properties';
      await answer.add(responseElement(resource.href, `${statusLine(507)}${errorElement('', reason)}`));
      break;
    }
  await answer.end();
}

const more = (one: Resource, names: Name[], call: DavCall): string => (names.length === 0 ? '' : propstats(one, { names } satisfies Wanted, call));
