import { OutsideError } from '@monsoon/systems';
import { expect } from 'chai';
import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { freshDatabase } from '../../../test/support/servers.ts';
import { isDatabaseDown, logError, sayError } from '../src/errors.ts';
import { openDatabase } from '../src/storage/database.ts';
import { pairs, people } from '../src/storage/schema.ts';

const SECRET = 'planted-5ecret-value';

describe('what is said of an error', () => {
  it('holds no value of a statement that failed, and names the rule that was broken', async () => {
    const database = await freshDatabase();
    const { db, close } = await openDatabase(database.url, pino({ level: 'silent' }));
    const failing = [
      () => db.insert(people).values({ id: SECRET, email: SECRET, role: 'viewer', passwordHash: SECRET } as never),
      () => db.insert(pairs).values({ id: SECRET, lane: SECRET } as never),
      () => db.execute(sql`select ${SECRET}::int`),
      () => db.execute(sql`select * from there_is_none where x = ${SECRET}`),
    ];
    for (const work of failing) {
      const error = await work().then(
        () => null,
        (e: unknown) => e,
      );
      expect(error).not.to.equal(null);
      expect((error as Error).message, 'the library repeats it').to.include(SECRET);
      expect(sayError(error)).not.to.include(SECRET);
      expect(sayError(error)).to.match(/SQLSTATE [0-9A-Z]{5}/);
      expect(JSON.stringify(logError(error))).not.to.include(SECRET);
      expect(JSON.stringify(logError(error))).to.include('errors.test.ts');
      expect(isDatabaseDown(error)).to.equal(false);
    }
    await close();
    await database.drop();
  });

  it('holds nothing of a text that could not be read', () => {
    const unread = (() => {
      try {
        return JSON.parse(`{${SECRET}`) as unknown;
      } catch (error) {
        return error;
      }
    })();
    expect(sayError(unread)).to.equal('SyntaxError in Monsoon');
    expect(JSON.stringify(logError(unread))).not.to.include(SECRET);
    expect(sayError(new OutsideError('refused', 'desk refused it'))).to.equal('desk refused it');
    expect(sayError('text')).to.equal('an unknown error');
  });
});
