import { Agent, request } from 'undici';
import { account, cyrus } from '../test/support/servers.ts';

export const authorization = `Basic ${Buffer.from(`${account.user}:${account.password}`).toString('base64')}`;

/** The bare work of filling a calendar on cyrus: a PUT for each text, so many at once. @param already how many it holds @returns milliseconds */
export async function barePuts(calendar: string, texts: readonly string[], concurrency: number, already = 0): Promise<number> {
  const agent = new Agent({ connections: concurrency, pipelining: 1 });
  const from = performance.now();
  let next = 0;
  const work = async () => {
    for (let i = next++; i < texts.length; i = next++) {
      const answer = await request(new URL(`${calendar}bare-${already + i}.ics`, cyrus()), {
        method: 'PUT',
        dispatcher: agent,
        headers: { authorization, 'content-type': 'text/calendar; charset=utf-8', 'if-none-match': '*' },
        body: texts[i]!,
      });
      await answer.body.dump();
      if (answer.statusCode !== 201) throw new Error(`PUT answered ${answer.statusCode}`);
    }
  };
  await Promise.all(Array.from({ length: concurrency }, work));
  const took = performance.now() - from;
  await agent.close();
  return took;
}
