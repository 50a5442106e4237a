import { fork } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';
import { Agent, request } from 'undici';

interface Asked {
  method: string;
  url: string;
  headers: Record<string, string>;
  body: string;
}

interface Load {
  /** requests that are under way together */
  atOnce: number;
  asked: Asked[];
}

interface Answered {
  /** from the first request to the last answer */
  milliseconds: number;
  /** how often each status came */
  statuses: Record<number, number>;
}

/** A client in a process of its own, as calendar programs are: what a server needs is measured, not what its client needs beside it. */
export function openClient() {
  const child = fork(fileURLToPath(import.meta.url), { execArgv: ['--import', 'tsx', '--no-warnings'], serialization: 'advanced' });
  return {
    async ask(load: Load): Promise<Answered> {
      child.send(load);
      const [answered] = (await once(child, 'message')) as [Answered];
      return answered;
    },
    close: () => child.kill(),
  };
}

async function answerLoad({ atOnce, asked }: Load): Promise<Answered> {
  const agent = new Agent({ connections: atOnce, pipelining: 1 });
  const statuses: Record<number, number> = {};
  let next = 0;
  const started = performance.now();
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let one = asked[next++]; one !== undefined; one = asked[next++]) {
        const { method, url, headers, body } = one;
        // A connection is kept, as calendar programs do; by itself, undici gives it up after a REPORT.
        const { statusCode, body: answer } = await request(url, { method: method as 'GET', headers, body, dispatcher: agent, reset: false });
        await answer.arrayBuffer();
        statuses[statusCode] = (statuses[statusCode] ?? 0) + 1;
      }
    }),
  );
  const milliseconds = performance.now() - started;
  await agent.close();
  return { milliseconds, statuses };
}

// In the process that openClient starts.
if (process.argv[1] === fileURLToPath(import.meta.url)) process.on('message', (load: Load) => void answerLoad(load).then((a) => process.send?.(a)));
