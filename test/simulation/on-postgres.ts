import { and, eq, inArray } from 'drizzle-orm';
import type { RunStore } from '../../packages/service/src/run/store.ts';
import type { Database } from '../../packages/service/src/storage/database.ts';
import { holds } from '../../packages/service/src/storage/schema.ts';
import { FailedStatement, type MemoryStore } from './memory-store.ts';

/**
 * A memory that is read from PostgreSQL and written to both: the engine sees what the database gives back, and the
 * checker looks at the copy.
 */
export function onPostgres(memory: MemoryStore, postgres: RunStore, db: Database): RunStore {
  const answers: { pair: string; choice: string }[] = [];
  const settle = memory.settle.bind(memory);
  memory.settle = (hold, choice) => {
    settle(hold, choice);
    answers.push({ pair: hold.pair, choice });
  };
  const flush = async () => {
    for (const { pair, choice } of answers.splice(0))
      await db
        .update(holds)
        .set({ state: 'settled', choice })
        .where(and(eq(holds.pair, pair), inArray(holds.state, ['open', 'settled'])));
  };
  return {
    ...postgres,
    async cursors() {
      await flush();
      return postgres.cursors();
    },
    async holds(which) {
      await flush();
      return postgres.holds(which);
    },
    async moveCursors(cursors) {
      await memory.moveCursors(cursors);
      await postgres.moveCursors(cursors);
    },
    async write(batch) {
      await flush();
      // A crash is thrown before either is written; a statement of which only the answer is lost, after both are.
      const lost = await memory.write(batch).then(
        () => null,
        (error: unknown) => {
          if (error instanceof FailedStatement && error.done) return error;
          throw error;
        },
      );
      await postgres.write(batch);
      if (lost !== null) throw lost;
    },
  };
}
