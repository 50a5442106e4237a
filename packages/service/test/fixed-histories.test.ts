import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { expect } from 'chai';
import { historyOf } from '../../../test/simulation/history.ts';
import { play } from '../../../test/simulation/play.ts';
import { type Exact, exactOf, playExact } from '../../../test/simulation/reference/exact.ts';
import { type Played, transcript } from '../../../test/simulation/transcript.ts';

const folder = resolve(import.meta.dirname, '../../../test/simulation/approved');
const approving = process.env['MONSOON_APPROVE'] !== undefined;

/**
 * A fixed set of histories, each a test of its own. All that the engine says in them, each cause, verdict, question and
 * stored event, is compared with what a person read and approved: `MONSOON_APPROVE=1` writes it anew, and the difference
 * is for reading before it is committed. The first line of a file is the history, so that it stays the same when other
 * histories are drawn.
 */
describe('the fixed histories end with the words that were approved', () => {
  const compare = async (file: string, first: string, { played }: { played: Played }) => {
    const text = `${[first, ...(await transcript(played))].join('\n')}\n`;
    if (approving) writeFileSync(file, text);
    const approved = readFileSync(file, 'utf8');
    // The digest first: an assertion about a long text takes long to fail.
    const digest = (of: string) => createHash('sha256').update(of).digest('hex');
    if (digest(text) === digest(approved)) return;
    const [now, then] = [text.split('\n'), approved.split('\n')];
    const at = now.findIndex((line, i) => line !== then[i]);
    expect(now[at], `line ${at + 1} of ${file}`).to.equal(then[at]);
    expect(now.length).to.equal(then.length);
  };
  if (approving) mkdirSync(folder, { recursive: true });
  for (let seed = 1; seed <= 24; seed++)
    it(`exact ${seed}`, async () => {
      const file = join(folder, `exact-${seed}.txt`);
      const first = existsSync(file) ? readFileSync(file, 'utf8').split('\n', 1)[0]! : JSON.stringify(exactOf(seed));
      await compare(file, first, await playExact(JSON.parse(first) as Exact));
    });
  for (let seed = 1; seed <= 8; seed++)
    it(`faults ${seed}`, async () => {
      const history = historyOf(seed);
      await compare(join(folder, `faults-${seed}.txt`), JSON.stringify(history), await play(history));
    });
});
