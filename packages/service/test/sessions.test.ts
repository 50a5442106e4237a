import { once } from 'node:events';
import { createServer, type Socket } from 'node:net';
import { expect } from 'chai';
import { openSession } from '../src/storage/sessions.ts';

/** A message of the server (PostgreSQL documentation, 55.7). */
const message = (type: string, body: string | Buffer): Buffer => {
  const bytes = Buffer.from(body);
  const head = Buffer.alloc(5);
  head.write(type);
  head.writeInt32BE(bytes.length + 4, 1);
  return Buffer.concat([head, bytes]);
};
const ready = message('Z', 'I');
const welcome = Buffer.concat([message('R', Buffer.alloc(4)), ready]);
const done = Buffer.concat([message('C', 'SET\0'), ready]);
const shutDown = message('E', 'SFATAL\0C57P01\0Mterminating connection due to administrator command\0\0');

/** A database that ends a session in one piece with its answer number `n`: 0 is the welcome. */
async function endingAfter(n: number) {
  const sockets: Socket[] = [];
  let closed: Promise<unknown> = Promise.resolve();
  const server = createServer((socket) => {
    sockets.push(socket);
    closed = once(socket, 'close');
    let answers = 0;
    socket.on('error', () => undefined);
    socket.on('data', () => {
      const answer = answers === 0 ? welcome : done;
      socket.write(answers++ === n ? Buffer.concat([answer, shutDown]) : answer);
    });
  }).listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as { port: number };
  return {
    url: `postgres://monsoon@127.0.0.1:${port}/monsoon`,
    end: () => sockets.at(-1)?.end(shutDown),
    /** until the session is over on both sides */
    over: () => closed,
    close() {
      for (const socket of sockets) socket.destroy();
      server.close();
    },
  };
}

describe('a database session of its own', () => {
  const heard: string[] = [];
  let server: Awaited<ReturnType<typeof endingAfter>>;
  const open = async (url: string) => {
    const client = await openSession(
      url,
      (error) => heard.push(`${error.message} (${client.database})`),
      (session) => session.query('listen something'),
    );
    return client;
  };
  beforeEach(() => {
    heard.length = 0;
  });
  afterEach(() => server.close());

  for (const [n, what] of ['the welcome', 'the first answer', 'the answer to what it is for'].entries())
    it(`rejects when the server ends it in one piece with ${what}: no one hears of a session that never was`, async () => {
      server = await endingAfter(n);
      const outcome = await open(server.url).then(
        () => 'open',
        (error: Error) => error.message,
      );
      expect(outcome).to.match(/terminat/);
      await server.over();
      expect(heard).to.deep.equal([]);
    });

  it('reports once that it was lost', async () => {
    server = await endingAfter(99);
    await open(server.url);
    server.end();
    await server.over();
    expect(heard).to.deep.equal(['terminating connection due to administrator command (monsoon)']);
  });
});
