import { createHash } from 'node:crypto';
import { expect } from 'chai';
import { event } from '../../../test/support/dav-door.ts';
import { deviceOf } from '../../../test/support/hosted.ts';
import { laneFile, type Office, openOffice } from '../../../test/support/office.ts';

/** Words of private events, and of a calendar's name, which stand nowhere else. */
const secrets = ['Oncologist', 'Ward-Seven', 'Bring-the-scan'];
const NAME = 'Board-of-Directors';

interface Operation {
  parameters: { name: string; in: string }[];
  requestBody?: { content: { 'application/json': { schema: { properties?: Record<string, unknown> } } } };
}

/**
 * Every call of the interface, made by a person of each sight who owns a lane: none says more of a hosted calendar than the door does.
 * The list is the OpenAPI document's, so that a new call is walked, too.
 */
describe('what a person sees of a hosted calendar', function () {
  this.timeout(240_000);
  let office: Office;
  let home: string;
  const tokens: Record<string, string> = {};

  before(async () => {
    office = await openOffice({ diary: 'hosted' });
    const { app, address, client } = office;
    const ines = await client.addDevice('more');
    const admin = deviceOf(address, '', ines.user, ines.password);
    home = (await client.makeCalendar('hosted', NAME, null)).href;
    const lines = ['CLASS:X-CONFIDENTIAL-TO-ME', 'SUMMARY:Oncologist', 'LOCATION:Ward-Seven', 'DESCRIPTION:Bring-the-scan'];
    const put = (uid: string, more: string[]) => admin.dav('PUT', `${home}${uid}.ics`, { 'content-type': 'text/calendar' }, event(uid, more));
    expect((await put('private-visit', lines)).status).to.equal(201);
    expect((await put('hidden-visit', ['TRANSP:TRANSPARENT', 'DTSTART:20261205T090000Z', ...lines])).status).to.equal(201);
    const slug = home.split('/').at(-2)!;
    for (const may of ['nothing', 'busy only', 'read'] as const) {
      const email = `${may.replace(' ', '-')}@alder-wren.example`;
      const token = `mon_walk-${may}`;
      const { rows } = await app.pool.query<{ id: string }>(`insert into people (email, name, role) values ($1, $2, 'operator') returning id`, [
        email,
        may,
      ]);
      const hash = createHash('sha256').update(token).digest('hex');
      await app.pool.query(`insert into tokens (person, name, may, hash) values ($1, 'walk', 'write', $2)`, [rows[0]!.id, hash]);
      tokens[may] = token;
      // Who owns a lane may look into systems.
      const lane = `of-${may.replace(' ', '-')}`;
      await client.makeLane(lane, { ...laneFile(), calendar: { system: 'hosted', calendar: office.calendar }, name: lane }, false);
      await app.pool.query('update lanes set owner = (select id from people where email = $1) where slug = $2', [email, lane]);
    }
    await client.shareHostedCalendar(
      slug,
      (['busy only', 'read'] as const).map((may) => ({ person: `${may.replace(' ', '-')}@alder-wren.example`, may })),
    );
    await client.makeFeed({ name: 'Directors-feed', system: 'hosted', calendar: home } as never);
  });
  after(() => office?.stop());

  for (const may of ['nothing', 'busy only', 'read'] as const)
    it(`is what the door shows: ${may}`, async () => {
      const { address } = office;
      const token = tokens[may]!;
      const headers = { authorization: `Bearer ${token}`, 'content-type': 'application/json' };
      const document = (await (await fetch(`${address}/api/v1/openapi.json`)).json()) as { paths: Record<string, Record<string, Operation>> };
      const lane: Record<string, unknown> = { ...laneFile(), direction: '<-', calendar: { system: 'hosted', calendar: home } };
      const values: Record<string, unknown> = {
        ...{ system: 'hosted', calendar: home, lane: `of-${may.replace(' ', '-')}`, feed: 'directors-feed', slug: 'walked' },
        ...{ from: '2026-11-01', until: '2027-01-31', step: 'month', zone: 'Europe/London', search: 'o' },
        ...{ definition: lane, text: JSON.stringify(lane), settings: lane, records: lane['records'], names: ['x'], limit: 50 },
      };
      const seen: string[] = [];
      let walked = 0;
      for (const [path, methods] of Object.entries(document.paths))
        for (const [method, { parameters, requestBody }] of Object.entries(methods)) {
          if (method !== 'get' && (method !== 'post' || !/preview|suggest|check|draft|counts|forecast|match/.test(path))) continue;
          for (const by of parameters.some((p) => p.name === 'by') ? ['title', 'location', 'description'] : ['']) {
            const inPath = path.replace(/\{(\w+)\}/g, (_m, name: string) =>
              encodeURIComponent(String(name === 'calendar' ? home.split('/').at(-2) : (values[name] ?? 'x'))),
            );
            const query = new URLSearchParams();
            for (const { name, in: where } of parameters)
              if (where === 'query' && name !== 'lane' && name !== 'collection' && values[name] !== undefined) query.set(name, String(values[name]));
            if (by !== '') query.set('by', by);
            const properties = Object.keys(requestBody?.content['application/json'].schema.properties ?? {});
            const body = Object.fromEntries(properties.filter((p) => values[p] !== undefined).map((p) => [p, values[p]]));
            const answer = await fetch(`${address}${inPath}?${query}`, {
              method,
              headers,
              ...(method === 'post' ? { body: JSON.stringify(body) } : {}),
              signal: AbortSignal.timeout(20_000),
            }).catch(() => null);
            if (answer === null || /event-stream/.test(answer.headers.get('content-type') ?? '')) continue;
            walked++;
            const text = await answer.text();
            expect(answer.status, `${method} ${inPath}: ${text.slice(0, 300)}`).to.be.lessThan(500);
            for (const word of [...secrets, 'private-visit', 'hidden-visit']) if (text.includes(word)) seen.push(`${method} ${path} says ${word}`);
            if (may === 'nothing') for (const word of [NAME, 'Directors-feed']) if (text.includes(word)) seen.push(`${method} ${path} says ${word}`);
          }
        }
      expect(walked).to.be.greaterThan(60);
      expect(seen).to.deep.equal([]);
    });

  it('is everything for who may read and write there', async () => {
    const { client } = office;
    const counted = await client.counts({
      system: 'hosted',
      calendar: home,
      by: 'title',
      step: 'month',
      from: '2026-12-01',
      until: '2026-12-31',
      zone: 'UTC',
    });
    expect(counted.groups.map((g) => g.name)).to.deep.equal(['Oncologist']);
  });

  it('lets a lane write with the right of its owner alone', async () => {
    const lane = 'of-nothing';
    await office.client.resume(lane);
    const run = await office.settled(await office.client.run(lane, {})).catch((error: Error) => ({ state: 'refused', reason: error.message }));
    expect(run.state).to.be.oneOf(['failed', 'refused']);
    expect(run.reason).to.match(/none that may be seen|ask whose calendar/);
  });
});
