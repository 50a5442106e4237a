import { readdirSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { type AnyHistory, playAny } from '../../../test/simulation/play-any.ts';
import { type Played, transcript } from '../../../test/simulation/transcript.ts';
import { compareApproved } from '../../../test/support/approved.ts';

const folder = resolve(import.meta.dirname, '../../../test/simulation/approved');

/**
 * A fixed set of histories, each a test of its own. All that the engine says in them, each cause, verdict, question and
 * stored event, is compared with what a person read and approved: `MONSOON_APPROVE=1` replaces it, and the difference
 * is for reading before it is committed. The first line of a file is the history, so that it stays the same when other
 * histories are drawn (one with series is drawn again); tools/mutants/notice.mjs finds those that notice broken code.
 */
describe('the fixed histories end with the words that were approved', () => {
  const compare = async (file: string, first: string, { played }: { played: Played }) =>
    // A text may hold line breaks of its own.
    compareApproved(file, [first, ...(await transcript(played))].join('\n').split('\n'));
  for (const name of readdirSync(folder).sort())
    it(name, async () => {
      const file = join(folder, name);
      const first = readFileSync(file, 'utf8').split('\n', 1)[0]!;
      await compare(file, first, await playAny(JSON.parse(first) as AnyHistory));
    });
});
