import { expect } from 'chai';
import pg from 'pg';
import { tryManyLanes } from '../../../test/support/many-lanes.ts';

describe('several workers', () => {
  it('lose nothing and double nothing while they are killed and the database goes away', async function () {
    this.timeout(400_000);
    const result = await tryManyLanes({
      lanes: 4,
      pairs: 20,
      workers: 2,
      rate: 4,
      seconds: 15,
      killEvery: 5,
      // What a restart does to whoever is connected; the tests beside this one keep their databases.
      breakDatabase: async (database) => {
        const client = new pg.Client({ connectionString: process.env['MONSOON_TEST_PG'] });
        await client.connect();
        await client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [database]);
        await client.end();
      },
    });
    expect(result.wrong).to.deep.equal([]);
    expect(result.kills).to.be.greaterThan(0);
    expect(result.calm.length + result.disturbed.length).to.be.greaterThan(20);
  });
});
