import { type Baseline, type Hold, type Pair, pairId } from '@monsoon/core';
import { expect } from 'chai';
import type { RunStore } from '../../packages/service/src/run/store.ts';

const LANE = '7f1c0d5e-3b1a-4c58-9a53-0d3c9f1d2e11';
const values = {
  title: 'Marsh',
  when: { kind: 'timed' as const, start: '2026-12-01T09:00:00', end: '2026-12-01T10:00:00', zone: 'Europe/London' },
};
export const storedPair = (record: string, more: Partial<Pair> = {}): Pair => {
  const id = pairId(LANE, record, 'visit');
  return {
    id,
    recordId: record,
    moment: 'visit',
    uid: id,
    href: `/c/${record}.ics`,
    etag: '"1"',
    version: '7',
    laneVersion: 1,
    tried: null,
    attempted: null,
    state: 'in sync',
    baseline: { record: values, event: values } as Baseline,
    label: `label ${record}`,
    ...more,
  };
};

async function all<T>(pages: AsyncIterable<T[]>): Promise<T[]> {
  const found: T[] = [];
  for await (const page of pages) found.push(...page);
  return found;
}

/** The definition of a run's memory: what passes may be run on. @param open a fresh memory of one lane */
export function runStoreAcceptance(
  name: string,
  open: () => Promise<{ store: RunStore; settle(pair: string, choice: string): Promise<void>; close(): Promise<void> }>,
): void {
  describe(`the memory of a run, ${name}`, () => {
    let opened: Awaited<ReturnType<typeof open>>;
    let store: RunStore;
    beforeEach(async () => {
      opened = await open();
      store = opened.store;
    });
    afterEach(() => opened.close());
    /** what it says is waiting at the beginning of 2026 */
    const waits = async () => Object.entries(await store.waiting('2026-01-02T00:00:00Z')).flatMap(([what, does]) => (does ? [what] : []));

    it('gives back pairs as they were written: by record, address, UID, state, and page by page', async () => {
      const making = storedPair('C', { state: 'creating', href: null, etag: null, baseline: null });
      const begun = storedPair('new', { recordId: null, state: 'unconfirmed', tried: '2026-11-23T08:00:00.000Z', href: '/c/hand.ics', uid: 'hand' });
      await store.write({ pairs: [storedPair('A'), storedPair('B'), making, storedPair('D', { state: 'unlinked' }), begun] });
      expect(await all(store.allPairs())).to.have.deep.members([
        storedPair('A'),
        storedPair('B'),
        making,
        storedPair('D', { state: 'unlinked' }),
        begun,
      ]);
      expect(await store.pairs({ records: ['B', 'nobody'] })).to.deep.equal([storedPair('B')]);
      expect(await store.pairs({ hrefs: ['/c/A.ics'] })).to.deep.equal([storedPair('A')]);
      expect(await store.pairs({ uids: ['hand'] })).to.deep.equal([begun]);
      expect(await store.pairs({ ids: [making.id] })).to.deep.equal([making]);
      expect((await store.pairs({ states: ['creating', 'unconfirmed'] })).map((p) => p.recordId)).to.have.members(['C', null]);
      expect(await store.pairs({ unfinished: true })).to.deep.equal([begun]);
      expect(await waits()).to.deep.equal(['unfinished', 'creating']);
      expect(await store.countPairs()).to.equal(4);
      await store.write({ pairs: [{ ...begun, recordId: 'R-9', state: 'in sync', tried: null }] });
      expect(await store.pairs({ records: ['R-9'] })).to.deep.equal([{ ...begun, recordId: 'R-9', state: 'in sync', tried: null }]);
    });

    it('refuses a second pair of the same moment of a record', async () => {
      await store.write({ pairs: [storedPair('A')] });
      const twin = storedPair('A', { id: storedPair('other').id });
      const outcome = await store.write({ pairs: [twin] }).then(
        () => 'taken',
        () => 'refused',
      );
      expect(outcome).to.equal('refused');
    });

    it('keeps a verdict with its attempts, for records and for events, tells what is due, and forgets it', async () => {
      const verdict = { reason: 'refused by the system' as const, condition: 'c', value: 'v', recheckAt: '2026-01-01T00:00:00Z', attempts: 2 };
      const record = { recordId: 'A', href: null, moment: 'visit', label: 'A' };
      const event = { recordId: null, href: '/c/x.ics', moment: 'visit', label: 'X' };
      await store.write({
        verdicts: [
          { ...record, verdict },
          { ...event, verdict },
        ],
      });
      expect(await waits()).to.deep.equal(['due']);
      expect(await store.due('2026-01-02T00:00:00Z')).to.deep.equal({ records: ['A'], hrefs: ['/c/x.ics'] });
      expect(await store.due('2025-12-31T00:00:00Z')).to.deep.equal({ records: [], hrefs: [] });
      expect([(await store.attempts(record)).count, (await store.attempts(event)).count]).to.deep.equal([2, 2]);
      expect(await store.setAside()).to.deep.equal({ records: ['A'], hrefs: ['/c/x.ics'] });
      await store.write({ verdicts: [{ ...record, verdict: null }] });
      expect([(await store.attempts(record)).count, (await store.attempts(event)).count]).to.deep.equal([0, 2]);
    });

    it('asks one question at a time about a pair, keeps what it was about, and drops it when the facts answer it', async () => {
      const pair = storedPair('A', { state: 'held' });
      const ask = (question: Hold['question'], asked: string) =>
        store.write({ pairs: [pair], holds: [{ pair, question, asked, choices: ['a', 'b'], cause: 'c', record: {}, event: {}, baseline: null }] });
      const open = async () => (await store.holds({ pairs: [pair.id] })).map(({ question, asked, choice }) => ({ question, asked, choice }));
      await ask('event deleted', '1');
      await ask('conflict', '2');
      expect(await open()).to.deep.equal([{ question: 'conflict', asked: '2', choice: null }]);
      expect(await store.holds('settled')).to.deep.equal([]);
      expect(await waits()).to.deep.equal([]);
      await ask('several candidates', '3');
      expect(await waits()).to.deep.equal(['candidates']);
      await ask('conflict', '2');
      await opened.settle(pair.id, 'a');
      expect(await waits()).to.deep.equal(['settled']);
      expect(await open()).to.deep.equal([{ question: 'conflict', asked: '2', choice: 'a' }]);
      expect((await store.holds('settled')).map((h) => h.recordId)).to.deep.equal(['A']);
      await store.write({ pairs: [storedPair('A')] });
      expect([await open(), await store.holds('settled')]).to.deep.equal([[], []]);
    });

    it('moves cursors and forgets them', async () => {
      await store.moveCursors({ records: 'r1', calendar: 'c1' });
      await store.moveCursors({ records: 'r2' });
      expect(await store.cursors()).to.deep.equal({ records: 'r2', calendar: 'c1' });
      await store.moveCursors({ calendar: null });
      expect(await store.cursors()).to.deep.equal({ records: 'r2', calendar: null });
    });

    it('remembers what is about to be written until it is answered for', async () => {
      const entry = { pair: storedPair('A'), kind: 'change', cause: 'c', changes: [], notes: [], removed: null, changedAt: null };
      await store.write({ intents: [entry] });
      expect(await store.intents()).to.deep.equal([entry]);
      await store.write({ entries: [entry], answered: true });
      expect(await store.intents()).to.deep.equal([]);
    });

    it('says after a sweep what is missing on either side', async () => {
      await store.write({ pairs: [storedPair('A'), storedPair('B'), storedPair('D', { state: 'unlinked' })] });
      await store.beginSweep();
      await store.stageEvents([
        { href: '/c/A.ics', etag: '"1"' },
        { href: '/c/D.ics', etag: null },
        { href: '/c/new.ics', etag: '"9"' },
      ]);
      await store.stageRecords(['A', 'Z']);
      expect(await store.listed(['/c/A.ics', '/c/B.ics', '/c/D.ics'])).to.deep.equal(
        new Map([
          ['/c/A.ics', '"1"'],
          ['/c/D.ics', null],
        ]),
      );
      expect((await all(store.unlistedPairs())).map((p) => p.recordId)).to.deep.equal(['B']);
      expect(await all(store.unknownEvents())).to.deep.equal(['/c/new.ics']);
      expect(await store.countListed()).to.deep.equal({ events: 3, unknown: 2, standing: 2, there: 1 });
      const about = (recordId: string | null, href: string | null) => ({ recordId, href, moment: 'visit', label: 'L' });
      const verdict = { reason: 'no date' as const, condition: 'c', value: 'v', recheckAt: null };
      const judged = [about('A', null), about('gone', null), about(null, '/c/gone.ics'), about(null, '/c/new.ics')];
      await store.write({ verdicts: judged.map((v) => ({ ...v, verdict })) });
      expect(await all(store.judged())).to.have.deep.members(judged);
      expect(await all(store.staleVerdicts())).to.have.deep.members([about('gone', null), about(null, '/c/gone.ics')]);
      await store.endSweep();
      expect((await store.countListed()).events).to.equal(0);
    });
  });
}
