import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { type FrontDesk, plainVisits, startFrontDesk } from '../../../test/support/front-desk.ts';
import { eventually } from '../../../test/support/servers.ts';

interface Listing {
  items: { id: string; updated_at: string; deleted: boolean }[];
  next: string | null;
}

describe('the Front desk', () => {
  let desk: FrontDesk;
  before(async () => {
    desk = await startFrontDesk(plainVisits(7));
  });
  after(() => desk.stop());
  const raw = (method: string, path: string, headers: Record<string, string> = {}, body?: string) =>
    fetch(desk.address + path, {
      method,
      redirect: 'manual',
      headers: { authorization: `Bearer ${desk.token}`, ...headers },
      ...(body === undefined ? {} : { body }),
    });

  it('lets nobody in without its token', async () => {
    expect((await raw('GET', '/api/v1/visits', { authorization: 'Bearer wrong' })).status).to.equal(401);
  });

  it('pages through what there is, and reports changes with tombstones', async () => {
    const seen: string[] = [];
    for (let cursor = ''; ; ) {
      const page = await desk.call<Listing>('GET', `/visits?limit=3${cursor}`);
      seen.push(...page.items.map((i) => i.id));
      if (page.next === null) break;
      cursor = `&cursor=${page.next}`;
    }
    expect(seen).to.deep.equal([1001, 1002, 1003, 1004, 1005, 1006, 1007].map((n) => `V-${n}`));
    const changed = await desk.call<{ updated_at: string }>('PATCH', '/visits/V-1002', { notes: 'x' });
    await desk.call('DELETE', '/visits/V-1003');
    const since = await desk.call<Listing>('GET', `/visits?updated_since=${changed.updated_at}`);
    expect(since.items.map((i) => [i.id, i.deleted])).to.deep.equal([
      ['V-1002', false],
      ['V-1003', true],
    ]);
    expect((await raw('GET', '/api/v1/visits/V-1003')).status).to.equal(410);
    expect((await desk.call<Listing>('GET', '/visits')).items.map((i) => i.id)).to.not.include('V-1003');
  });

  it('changes only what is as it was seen, when asked with If-Match, and refuses nonsense with the reason', async () => {
    const etag = (await raw('GET', '/api/v1/visits/V-1001')).headers.get('etag')!;
    const patch = (body: object, headers = {}) =>
      raw('PATCH', '/api/v1/visits/V-1001', { 'content-type': 'application/json', ...headers }, JSON.stringify(body));
    expect((await patch({ notes: 'a' }, { 'if-match': etag })).status).to.equal(200);
    expect((await patch({ notes: 'b' }, { 'if-match': etag })).status).to.equal(412);
    const refused = await patch({ status: 'eaten', start: 'soon', surprise: 1 });
    expect(refused.status).to.equal(422);
    expect(((await refused.json()) as { error: string }).error)
      .to.match(/status/)
      .and.match(/start/)
      .and.match(/surprise/);
  });

  it('signs its notices so that they can be verified', async () => {
    const heard: { headers: Record<string, string>; body: string }[] = [];
    const server = createServer((request, response) => {
      let body = '';
      request.on('data', (d: Buffer) => (body += d.toString()));
      request.on('end', () => {
        heard.push({ headers: request.headers as Record<string, string>, body });
        response.writeHead(204).end();
      });
    }).listen(0, '127.0.0.1');
    await new Promise((fine) => server.once('listening', fine));
    const hook = await desk.call<{ id: string; secret: string }>('POST', '/webhooks', {
      url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
    });
    await desk.call('PATCH', '/visits/V-1004', { notes: 'x' });
    await eventually('a notice', async () => heard.length > 0);
    expect(new Webhook(hook.secret).verify(heard[0]!.body, heard[0]!.headers)).to.deep.include({ type: 'visits.updated', data: { id: 'V-1004' } });
    expect(await (await raw('GET', '/api/v1/webhooks')).text()).to.not.include(hook.secret);
    await desk.call('DELETE', `/webhooks/${hook.id}`);
    server.close();
  });

  it('has a page on which a clerk moves a visit, and no other site can', async () => {
    const form = 'start=2026-12-24T09:30&length_minutes=45&instrument=Wren+grand+170&kind=voicing&status=booked&notes=%3Cb%3E&do=save';
    const post = (headers = {}) => raw('POST', '/visits/V-1005', { 'content-type': 'application/x-www-form-urlencoded', ...headers }, form);
    expect((await post({ origin: 'https://elsewhere.example' })).status).to.equal(403);
    expect((await post({ origin: desk.address })).status).to.equal(303);
    expect(await desk.call('GET', '/visits/V-1005')).to.include({ start: '2026-12-24T09:30:00', length_minutes: 45, notes: '<b>' });
    const page = await (await raw('GET', '/visits/V-1005')).text();
    expect(page).to.include('2026-12-24T09:30').and.not.include('<b>');
  });
});
