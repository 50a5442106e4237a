import type { DavCaller } from './caller.ts';
import { Multistatus, propstats, responseElement, type Wanted, wantedIn } from './multistatus.ts';
import { DavProblem } from './problem.ts';
import { type DavCall, membersOf, type Resource } from './resources.ts';
import { childOf, DAV, type Element } from './xml.ts';

/** PROPFIND (RFC 4918, 9.1), of a resource and what is directly inside it. */
export async function propfind({ door, caller, request, response }: DavCall, resource: Resource, body: Element | null): Promise<void> {
  const depth = request.get('depth') ?? 'infinity';
  if (depth !== '0' && depth !== '1')
    throw new DavProblem(403, 'say Depth: 0 or 1: everything below at once is not given', '<D:propfind-finite-depth/>');
  if (body !== null && body.name !== `${DAV}propfind`) throw new DavProblem(400, 'the body of PROPFIND is a DAV:propfind');
  const asked = wantedIn(body);
  if (asked === null) throw new DavProblem(400, 'DAV:propfind holds prop, allprop or propname');
  // allprop may name others beside (RFC 4918, 14.8).
  const include = childOf(body, `${DAV}include`)?.children.map((c) => c.name) ?? [];
  const answer = new Multistatus(response);
  const add = (one: Resource) => answer.add(responseElement(one.href, propstats(one, asked, caller) + more(one, include, caller)));
  await add(resource);
  if (depth === '1') for await (const page of membersOf(door, caller, resource)) for (const one of page) await add(one);
  await answer.end();
}

const more = (one: Resource, names: string[], caller: DavCaller): string =>
  names.length === 0 ? '' : propstats(one, { names } satisfies Wanted, caller);
