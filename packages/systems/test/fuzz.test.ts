import { setTimeout as wait } from 'node:timers/promises';
import { makeEvent, readEvent, readTask, UnreadableEvent } from '@monsoon/core';
import { loadZones } from '@monsoon/service';
import { descriptorSchema, draftDescriptor, OutsideError } from '@monsoon/systems';
import { expect } from 'chai';
import fc from 'fast-check';
import { ValidationError } from 'yup';
import { parseMultistatus } from '../src/caldav/multistatus.ts';
import { readSheet } from '../src/csv/sheet.ts';
import { FeedSplitter } from '../src/feed/split.ts';
import type { CollectionDescriptor } from '../src/json-api/descriptor.ts';
import { linkOf } from '../src/json-api/paging.ts';
import { readRecord } from '../src/json-api/read-record.ts';

/** `MONSOON_FUZZ=200000 npm test -- --grep 'bad input'` tries that many; in the tests a small share. */
const INPUTS = Number(process.env['MONSOON_FUZZ'] ?? 6000);
const zones = loadZones();

const ical = makeEvent(
  'fuzz',
  {
    title: 'Ümlaut, 🎹; and \\ more',
    when: { kind: 'timed', start: '2026-12-15T12:00:00', end: '2026-12-15T13:00:00', zone: 'America/Vancouver' },
    attendees: [{ email: 'a@b.example', name: 'A, "B"' }],
    reminders: [30],
  } as never,
  { lane: 'l', pair: 'p' },
  { zones, now: '2026-11-23T00:00:00Z' },
);
const task =
  'BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nUID:t\r\nDUE;TZID=Europe/London:20261201T090000\r\nSTATUS:IN-PROCESS\r\nCATEGORIES:a\\,b,c\r\nEND:VTODO\r\nEND:VCALENDAR\r\n';
const xml =
  '<?xml version="1.0"?><D:multistatus xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav"><D:response><D:href>/c/a%20b.ics</D:href><D:propstat><D:prop><D:getetag>"1"</D:getetag><C:calendar-data><![CDATA[BEGIN:VCALENDAR]]></C:calendar-data></D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response><D:sync-token>t</D:sync-token></D:multistatus>';
const csv = 'id;day;"na;me"\r\n1;24.12.2026;"x ""y"""\r\n2;;z\r\n';
const collection: CollectionDescriptor = {
  label: 'Things',
  list: { path: '/t', items: '/items', next: { page: 'p' } },
  read: { path: '/t/{id}' },
  id: '/id',
  modified: '/changed',
  fields: [
    { name: 'at', type: 'date-time', at: '/at', as: 'seconds' },
    { name: 'who', type: 'people', at: '/who', itemAt: '/person' },
    { name: 'ref', type: 'reference', at: '/ref' },
    { name: 'n', type: 'duration', at: '/n' },
    { name: 'tags', type: 'choices', at: '/tags', itemAt: '/t' },
    { name: 'yes', type: 'yes/no', at: '/yes', values: { '1': 'x' } },
  ],
};
const json = {
  id: 'a',
  at: 1_700_000_000,
  who: [{ person: { name: 'N', email: 'e@x.example' } }, 'x', null],
  ref: { id: 1, name: 'R' },
  n: '5',
  tags: [{ t: 'a' }],
  yes: 1,
  changed: '2026-01-01',
};
const openApi = {
  openapi: '3.1.0',
  paths: {
    '/things': {
      get: {
        parameters: [{ in: 'query', name: 'page', schema: { type: 'integer' } }],
        responses: { 200: { content: { 'application/json': { schema: { type: 'array', items: { $ref: '#/components/schemas/T' } } } } } },
      },
    },
    '/things/{id}': { get: {} },
  },
  components: {
    schemas: {
      T: {
        type: 'object',
        properties: { id: { type: 'string' }, self: { $ref: '#/components/schemas/T' }, at: { type: 'string', format: 'date-time' } },
      },
    },
  },
};

/** A text with pieces cut out, doubled, swapped and replaced by what often hurts. */
const nasty = [
  '\0',
  '\r',
  '\n ',
  '\u2028',
  '\ud800',
  '&',
  ']]>',
  '<!DOCTYPE a>',
  '<D:response>',
  '"',
  ';',
  ',',
  ':',
  '\\',
  '::',
  'END:VCALENDAR\r\n',
  'BEGIN:VEVENT\r\n',
  'TZID=Nowhere/Else',
  '99999999T999999',
  'PT999999999999H',
  '-1',
  '1e309',
  '\ufeff',
  '{',
  '~',
  '/'.repeat(50),
  'A'.repeat(5000),
  'BEGIN:X\r\n'.repeat(40),
  '<a>'.repeat(60),
  '"'.repeat(101),
];
const mutated = (seed: string) =>
  fc
    .array(
      fc.tuple(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.nat(40),
        fc.constantFrom('cut', 'double', 'replace', 'insert'),
        fc.constantFrom(...nasty),
      ),
      { minLength: 1, maxLength: 8 },
    )
    .map((edits) =>
      edits.reduce((text, [where, size, how, piece]) => {
        const at = Math.floor(where * text.length);
        const [before, part, rest] = [text.slice(0, at), text.slice(at, at + size), text.slice(at + size)];
        return how === 'cut'
          ? before + rest
          : how === 'double'
            ? before + part + part + rest
            : how === 'replace'
              ? before + piece + rest
              : before + piece + part + rest;
      }, seed),
    );
const twisted = (seed: object) =>
  fc.oneof(fc.json({ maxDepth: 6 }), mutated(JSON.stringify(seed))).map((text) => {
    try {
      return JSON.parse(text) as unknown;
    } catch {
      return text;
    }
  });

/** Whatever comes: an answer, or one of the errors that people are told; within a second. */
function survives<T>(name: string, arbitrary: fc.Arbitrary<T>, work: (input: T) => unknown, fine: (error: unknown) => boolean): void {
  it(name, async function () {
    this.timeout(600_000);
    const share = Math.ceil(INPUTS / 8);
    let slowest = 0;
    await fc.assert(
      fc.asyncProperty(arbitrary, async (input) => {
        const started = performance.now();
        try {
          await work(input);
        } catch (error) {
          if (!fine(error)) throw error;
          expect((error as Error).message).to.not.equal('');
        }
        slowest = Math.max(slowest, performance.now() - started);
      }),
      {
        numRuns: share,
        ...(process.env['MONSOON_FUZZ_SEED'] === undefined ? { seed: 20_261_123 } : { seed: Number(process.env['MONSOON_FUZZ_SEED']) }),
      },
    );
    expect(slowest, 'milliseconds of the slowest input').to.be.lessThan(1000);
    expect(process.memoryUsage().rss / 1e6, 'megabytes').to.be.lessThan(1500);
    if (INPUTS > 10_000)
      console.log(`      ${share} inputs, the slowest ${slowest.toFixed(1)} ms, ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
  });
}

describe('bad input ends in an answer or a plain error, never in a crash or a wait', () => {
  const outside = (e: unknown) => e instanceof OutsideError;
  const unreadable = (e: unknown) => e instanceof UnreadableEvent;
  survives('events', mutated(ical), (text) => readEvent(text, zones), unreadable);
  survives('tasks', mutated(task), (text) => readTask(text, zones), unreadable);
  survives(
    'feeds',
    fc.tuple(mutated(ical.repeat(3)), fc.integer({ min: 1, max: 4000 })),
    ([text, size]) => {
      const splitter = new FeedSplitter(() => undefined);
      const bytes = Buffer.from(text);
      for (let at = 0; at < bytes.length; at += size) splitter.push(bytes.subarray(at, at + size));
      splitter.end();
    },
    () => false,
  );
  survives('answers of calendar servers', mutated(xml), (text) => parseMultistatus(Buffer.from(text), 'x.example'), outside);
  survives('CSV files', mutated(csv), (text) => readSheet(Buffer.from(text), '/f.csv', 'f', { key: ['id'] }, 0o600), outside);
  survives(
    'records in JSON',
    twisted(json),
    (value) => readRecord(value, collection),
    () => false,
  );
  survives(
    'descriptors',
    twisted({ collections: { things: collection } }),
    (value) => {
      descriptorSchema.validateSync(value, { strict: true, abortEarly: false });
    },
    (e) => e instanceof ValidationError,
  );
  survives(
    'OpenAPI documents and Link headers',
    fc.tuple(twisted(openApi), mutated('<https://x.example/?p=2>; rel="next", <u>; title="a,b"; rel=last')),
    ([value, header]) => {
      linkOf(header);
      draftDescriptor(value);
    },
    (e) => e instanceof RangeError,
  );
});

const read = (text: string) => {
  try {
    return readEvent(text, zones);
  } catch (error) {
    return (error as Error).message;
  }
};
const manyResponses = (n: number) => {
  const response = (i: number) =>
    `<d:response><d:href>/c/${i}.ics</d:href><d:propstat><d:prop><d:getetag>"e${i}"</d:getetag></d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>`;
  return `<?xml version="1.0"?><d:multistatus xmlns:d="DAV:">${Array.from({ length: n }, (_, i) => response(i)).join('')}</d:multistatus>`;
};
const manyRows = (n: number) => `id,day,at,name\n${Array.from({ length: n }, (_, i) => `${i},2026-12-24,2026-12-24T09:30,"name, ${i}"`).join('\n')}`;

/** What is as large as it may be, or a little larger. */
const head =
  'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:a\r\nDTSTAMP:20261201T000000Z\r\nDTSTART:20261201T100000Z\r\nSUMMARY:x\r\n';
const foot = 'END:VEVENT\r\nEND:VCALENDAR\r\n';
const observances =
  'BEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0000\r\nRRULE:FREQ=SECONDLY\r\nEND:STANDARD\r\n'.repeat(1900);
const wide = JSON.stringify(Array.from({ length: 60_000 }, (_, id) => ({ id, name: 'n'.repeat(110) })));
const large: [string, () => string, (text: string) => unknown][] = [
  ['15,000 alarms', () => head + 'BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER:-PT5M\r\nEND:VALARM\r\n'.repeat(15_000) + foot, read],
  ['20,000 guests', () => head + 'ATTENDEE:mailto:a@b.example\r\n'.repeat(20_000) + foot, read],
  ['a line of 8 MB in pieces', () => `${head}SUMMARY:x${'\r\n y'.repeat(1_900_000)}\r\n${foot}`, read],
  ['a guest with 45,000 parameters', () => `${head}ATTENDEE${';X=1'.repeat(45_000)}:mailto:a@b.example\r\n${foot}`, read],
  ['100,000 components in each other', () => head + 'BEGIN:X\r\n'.repeat(100_000) + foot, read],
  [
    'a zone with 1,900 rules',
    () => head.replace('BEGIN:VEVENT', `BEGIN:VTIMEZONE\r\nTZID:Q\r\n${observances}END:VTIMEZONE\r\nBEGIN:VEVENT`) + foot,
    read,
  ],
  ['an answer of a calendar server of 16 MB', () => manyResponses(100_000), (text) => parseMultistatus(Buffer.from(text), 'x.example')],
  ['a CSV file of 5 MB', () => manyRows(100_000), (text) => readSheet(Buffer.from(text), '/f.csv', 'f', { key: ['id'] }, 0o600)],
  ['a page of JSON of 8 MB', () => wide, JSON.parse],
];
describe('what is very large', () => {
  for (const [name, make, work] of large)
    it(`${name} holds up nothing else for long`, async function () {
      this.timeout(60_000);
      const text = make();
      const pause = await measured(() => work(text));
      if (process.env['MONSOON_FUZZ_SAY'] !== undefined) console.log(`      ${name}: ${Math.round(pause)} ms`);
      // A quiet machine needs less than 100 ms, and as much to parse 8 MB of JSON, which cannot be done in pieces. What is not linear
      // takes many seconds. The collector's threads count, too, and a busy machine gives them more to do.
      const bare = await measured(() => JSON.parse(wide));
      expect(pause, 'milliseconds of work without a turn').to.be.lessThan(Math.max(2000, 10 * bare));
    });

  /**
   * The longest work between two turns of the event loop, in milliseconds of processor time: what other programs do to the
   * clock meanwhile does not count.
   */
  async function measured(work: () => unknown): Promise<number> {
    const used = () => {
      const { user, system } = process.cpuUsage();
      return (user + system) / 1000;
    };
    await wait(20);
    let longest = 0;
    let last = used();
    let next: NodeJS.Immediate;
    const tick = () => {
      longest = Math.max(longest, used() - last);
      last = used();
      next = setImmediate(tick);
    };
    next = setImmediate(tick);
    await work();
    await new Promise((fine) => setImmediate(fine));
    clearImmediate(next);
    return longest;
  }
});
