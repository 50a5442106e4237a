import type { RunAnswer } from '@monsoon/contract';
import type { MonsoonClient } from '@monsoon/contract/client';
import { sayLeft } from '@monsoon/contract/text';
import { harmless, isTerminal } from './output.ts';

/** Follows a run to its end, with its progress on a terminal. */
export async function followRun(client: MonsoonClient, run: RunAnswer): Promise<RunAnswer> {
  let current = run;
  let shown = '';
  const show = (text: string) => {
    if (!isTerminal() || text === shown) return;
    process.stderr.write(`\r\x1b[K${harmless(text)}`);
    shown = text;
  };
  for (let pause = 50; current.state === 'waiting' || current.state === 'running'; pause = Math.min(pause * 1.5, 500)) {
    await new Promise((resolve) => setTimeout(resolve, pause));
    current = await client.oneRun(run.id);
    show(
      current.planned > 0
        ? `${current.done} of ${current.planned} ${sayLeft(current, Date.now())}`
        : current.state === 'waiting'
          ? 'waiting for its turn'
          : 'reading both sides',
    );
  }
  show('');
  return current;
}
