import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { expect } from 'chai';
import { historyOf } from '../../../test/simulation/history.ts';
import { play } from '../../../test/simulation/play.ts';
import { exactOf, playExact } from '../../../test/simulation/reference/exact.ts';
import { type Played, transcript } from '../../../test/simulation/transcript.ts';

const folder = resolve(import.meta.dirname, '../../../test/simulation/approved');
const approving = process.env['MONSOON_APPROVE'] !== undefined;

/**
 * A fixed set of histories, each a test of its own. All that the engine says in them, each cause, verdict, question and
 * stored event, is compared with what a person read and approved: `MONSOON_APPROVE=1` writes it anew, and the difference
 * is for reading before it is committed.
 */
describe('the fixed histories end with the words that were approved', () => {
  const keeps = (name: string, playing: () => Promise<{ played: Played }>) =>
    it(name, async () => {
      const text = `${(await transcript((await playing()).played)).join('\n')}\n`;
      const file = join(folder, `${name.replaceAll(' ', '-')}.txt`);
      if (approving) {
        mkdirSync(folder, { recursive: true });
        writeFileSync(file, text);
      }
      const approved = readFileSync(file, 'utf8');
      // The digest first: an assertion about a long text takes long to fail.
      const digest = (of: string) => createHash('sha256').update(of).digest('hex');
      if (digest(text) !== digest(approved)) {
        const now = text.split('\n');
        const then = approved.split('\n');
        const at = now.findIndex((line, i) => line !== then[i]);
        expect(now[at], `line ${at + 1} of ${file}`).to.equal(then[at]);
        expect(now.length).to.equal(then.length);
      }
    });
  for (let seed = 1; seed <= 40; seed++) keeps(`exact ${seed}`, () => playExact(exactOf(seed)));
  for (let seed = 1; seed <= 12; seed++) keeps(`faults ${seed}`, () => play(historyOf(seed)));
});
