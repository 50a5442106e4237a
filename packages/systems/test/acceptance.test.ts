import { readFileSync } from 'node:fs';
import { loadZones } from '@monsoon/service';
import { type Calendars, kinds } from '@monsoon/systems';
import { calendarAcceptance, recordAcceptance } from '@monsoon/systems/acceptance';
import { parse } from 'yaml';
import { startFrontDesk } from '../../../test/support/front-desk.ts';
import { account, cyrus, dav, radicale } from '../../../test/support/servers.ts';

const options = { addresses: { allowed: ['127.0.0.1'] }, zones: loadZones() };

for (const [name, address] of [
  ['radicale', radicale],
  ['cyrus', cyrus],
] as const) {
  calendarAcceptance(`CalDAV on ${name}`, async () => {
    const open = (password: string) => kinds['caldav']!.open({ address: address(), user: account.user }, { password }, options);
    const right = open(account.password);
    const wrong = open('wrong');
    return {
      calendars: right.calendars as Calendars,
      stranger: wrong.calendars as Calendars,
      async storeForeign(calendar, file, text) {
        const href = `${calendar}${encodeURIComponent(file)}`;
        const { status } = await dav(address(), 'PUT', href, { 'content-type': 'text/calendar' }, text);
        if (status >= 300) throw new Error(`PUT ${href}: ${status}`);
        return href;
      },
      close: async () => void (await Promise.all([right.close(), wrong.close()])),
    };
  });
}

recordAcceptance('a JSON API (the Front desk)', async () => {
  const desk = await startFrontDesk();
  const file = parse(readFileSync(new URL('../../../demo/systems/front-desk.yaml', import.meta.url), 'utf8')) as {
    settings: { descriptor: { collections: { visits: { list: { size: { value: number } } } } } };
  };
  // Small pages, so that there are several.
  file.settings.descriptor.collections.visits.list.size.value = 3;
  const open = (token: string) => kinds['json-api']!.open({ ...file.settings, address: `${desk.address}/api/v1` }, { token }, options);
  const right = open(desk.token);
  const wrong = open('wrong');
  return {
    records: right.records!,
    stranger: wrong.records!,
    collection: 'visits',
    field: 'notes',
    make: async (notes) => (await desk.call<{ id: string }>('POST', '/visits', { notes })).id,
    change: async (id, notes) => void (await desk.call('PATCH', `/visits/${id}`, { notes })),
    remove: async (id) => void (await desk.call('DELETE', `/visits/${id}`)),
    close: async () => {
      await Promise.all([right.close(), wrong.close()]);
      desk.stop();
    },
  };
});
