import type { CheckAnswer, ProbeStepAnswer } from '@monsoon/contract';
import { useCallback, useEffect, useRef, useState } from 'react';
import { client, reasonOf } from '../data.ts';
import { Badge, Empty, Failure } from './basics.tsx';

/** The steps of a check, as they come. */
export function Steps({ steps, running, wrong }: { steps: ProbeStepAnswer[]; running: boolean; wrong: string | null }) {
  return (
    <div aria-live="polite">
      {steps.length > 0 && (
        <table>
          <tbody>
            {steps.map((s) => (
              <tr key={`${s.name} ${s.detail}`}>
                <td className="w-24">
                  {s.outcome === 'failed' ? <Badge tone="failed">failed</Badge> : s.outcome === 'warning' ? <Badge>warning</Badge> : 'ok'}
                </td>
                <td className="w-52 font-medium">{s.name}</td>
                <td className="break-words">{s.detail}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {running && <Empty>{steps.length === 0 ? 'Asking...' : 'Asking on...'}</Empty>}
      {wrong !== null && <Failure>{wrong}</Failure>}
    </div>
  );
}

/** A check that is shown while it goes on. */
export function useCheck(): {
  steps: ProbeStepAnswer[];
  running: boolean;
  wrong: string | null;
  result: CheckAnswer | null;
  check: (what: Parameters<typeof client.checkLive>[0]) => Promise<CheckAnswer | null>;
} {
  const [steps, setSteps] = useState<ProbeStepAnswer[]>([]);
  const [running, setRunning] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const [result, setResult] = useState<CheckAnswer | null>(null);
  const current = useRef<AbortController | null>(null);
  useEffect(() => () => current.current?.abort(), []);
  const check = useCallback(async (what: Parameters<typeof client.checkLive>[0]) => {
    current.current?.abort();
    const mine = new AbortController();
    current.current = mine;
    setSteps([]);
    setWrong(null);
    setResult(null);
    setRunning(true);
    try {
      const done = await client.checkLive(what, (step) => setSteps((all) => [...all, step]), mine.signal);
      setResult(done);
      return done;
    } catch (error) {
      if (!mine.signal.aborted) setWrong(reasonOf(error));
      return null;
    } finally {
      if (current.current === mine) setRunning(false);
    }
  }, []);
  return { steps, running, wrong, result, check };
}
