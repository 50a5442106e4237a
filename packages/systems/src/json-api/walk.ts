import type { ZoneTable } from '@monsoon/core';
import type { Call } from '../http/call.ts';
import type { ProbeStep } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import type { Descriptor } from './descriptor.ts';
import { JsonApi } from './json-api.ts';

/**
 * Walks a descriptor through its system, reading only: the list, its second page, one record alone, one that is not
 * there, and what changed since now. Each step says what was found.
 */
export async function* walk(call: Call, address: string, descriptor: Descriptor, zones: ZoneTable, signal: AbortSignal): AsyncIterable<ProbeStep> {
  for (const [name, collection] of Object.entries(descriptor.collections)) {
    const api = new JsonApi(call, address, descriptor, zones);
    const step = (what: string, outcome: ProbeStep['outcome'], detail: string): ProbeStep => ({ name: `${name}: ${what}`, outcome, detail });
    try {
      const pages = api.pull(name, null, signal)[Symbol.asyncIterator]();
      const first = await pages.next();
      const items = first.done === true ? [] : first.value.items;
      if (items.length === 0) {
        yield step('list', 'warning', 'the list is empty: the fields cannot be tried');
        continue;
      }
      yield step('list', 'ok', `${items.length} records on the first page`);
      const empty = collection.fields.filter((f) => items.every((i) => i.fields[f.name] === null)).map((f) => `${f.name} at ${f.at}`);
      yield empty.length === 0
        ? step('fields', 'ok', `each of ${collection.fields.length} fields has a value somewhere`)
        : step('fields', 'warning', `never a value on this page: ${empty.join(', ')}; is the pointer right, and the type?`);
      if (collection.list.next === undefined) yield step('paging', 'warning', 'the descriptor names no next page: is the first really everything?');
      else if (first.value?.cursor !== undefined) yield step('paging', 'ok', 'there is one page only, so that the next could not be tried');
      else {
        const second = await pages.next();
        const more = second.done === true ? [] : second.value.items;
        yield step('paging', 'ok', `the second page has ${more.length} other records`);
      }
      yield* readOne(api, name, items[0]!, step, signal);
      const { since } = collection.list;
      if (since === undefined) yield step('changes', 'warning', 'the descriptor names no "changed since": each check reads everything');
      else {
        let changed = 0;
        for await (const page of api.pull(name, new Date().toISOString(), signal)) changed += page.items.length + page.gone.length;
        yield changed >= items.length && items.length > 3
          ? step(
              'changes',
              'warning',
              `${changed} records are said to have changed since this moment: does the system know the parameter ${since.parameter}?`,
            )
          : step('changes', 'ok', `${changed} changed in the last moments`);
      }
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      yield step('list', 'failed', error.message);
      if (error.trouble === 'not authorised' || error.trouble === 'unreachable') return;
    }
  }
}

async function* readOne(
  api: JsonApi,
  name: string,
  item: { id: string; version?: string | undefined; fields: object },
  step: (what: string, outcome: ProbeStep['outcome'], detail: string) => ProbeStep,
  signal: AbortSignal,
): AsyncIterable<ProbeStep> {
  const alone = await api.read(name, item.id, signal);
  if (alone === null) yield step('one record', 'failed', `the list has ${item.id}, and read.path finds nothing there`);
  else {
    const differing = Object.keys(item.fields).filter(
      (f) => JSON.stringify(alone.fields[f]) !== JSON.stringify((item.fields as Record<string, unknown>)[f]),
    );
    yield differing.length === 0
      ? step('one record', 'ok', `${item.id} alone is as in the list`)
      : step('one record', 'warning', `${item.id} alone differs from the list in ${differing.join(', ')}`);
  }
  const missing = await api.read(name, 'no-such-record', signal).catch((error: unknown) => error);
  yield missing === null
    ? step('no record', 'ok', 'a missing record is answered as missing')
    : step(
        'no record',
        'warning',
        `an id that is not there is answered otherwise than with 404 or 410${missing instanceof OutsideError ? ` (${missing.message})` : ''}: deletions cannot be confirmed`,
      );
}
