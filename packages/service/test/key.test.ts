import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Config, startService } from '@monsoon/service';
import { expect } from 'chai';
import { serviceConfig } from '../../../test/support/office.ts';
import { freshDatabase } from '../../../test/support/servers.ts';
import { systems } from '../src/storage/schema.ts';

describe('the key of the stored secrets', () => {
  it('that does not open them is refused at the start, with the way out; dropping the secrets drops only those', async function () {
    this.timeout(60_000);
    const database = await freshDatabase();
    const folders = [0, 1].map(() => mkdtempSync(join(tmpdir(), 'key-')));
    const start = (folder: string, more: Partial<Config> = {}) =>
      startService({ ...serviceConfig(folder, database.url), role: 'web', allowedAddresses: [], ...more });
    const first = await start(folders[0]!);
    const row = (slug: string, secrets: string) => ({ slug, name: `The ${slug}`, kind: 'json-api', settings: {}, secrets });
    await first.app.db.insert(systems).values(row('desk', first.app.vault.seal({ token: 'x' })));
    await first.stop();
    const refused = await start(folders[1]!).then(
      () => '',
      (e: Error) => e.message,
    );
    expect(refused).to.match(/does not open the stored secrets of The desk: .* start once with MONSOON_DROP_SECRETS=yes/);
    // With its own key it goes on as if nothing had been.
    const again = await start(folders[0]!);
    expect((await again.app.db.select().from(systems))[0]!.lapsedAt).to.equal(null);
    await again.stop();
    const third = await start(folders[1]!, { dropSecrets: true });
    await third.app.db.insert(systems).values(row('bench', third.app.vault.seal({ token: 'y' })));
    const rows = await third.app.db.select().from(systems);
    expect(rows.find((s) => s.slug === 'desk')!.lapsedReason).to.match(/enter them again/);
    expect(third.app.vault.open(rows.find((s) => s.slug === 'desk')!.secrets)).to.deep.equal({});
    await third.stop();
    await (await start(folders[1]!)).stop();
    await database.drop();
    for (const folder of folders) rmSync(folder, { recursive: true, force: true });
  });
});
