import type { Caller } from '../access/callers.ts';
import { HttpProblem } from './problem.ts';

/** Expensive calls that one person may have under way in one process. */
const AT_ONCE = 4;
/** Expensive calls that one person may make in a minute. */
const PER_MINUTE = 120;

interface Use {
  underWay: number;
  /** times of the calls of the last minute, in milliseconds */
  recent: number[];
}

const uses = new Map<string, Use>();

/**
 * Does what reads whole systems or computes for long, within the limits of one person.
 * @throws HttpProblem 429 when they have too many such calls under way, or made too many in the last minute
 */
export async function withinLimits<T>(caller: Caller, work: () => Promise<T>): Promise<T> {
  const now = Date.now();
  const use = uses.get(caller.person) ?? { underWay: 0, recent: [] };
  uses.set(caller.person, use);
  use.recent = use.recent.filter((at) => now - at < 60_000);
  if (use.underWay >= AT_ONCE)
    throw new HttpProblem(
      429,
      'Too many at once',
      `${caller.email} has ${use.underWay} calls under way that read whole systems; wait for one to end`,
    );
  if (use.recent.length >= PER_MINUTE)
    throw new HttpProblem(
      429,
      'Too many in a minute',
      `${caller.email} made ${PER_MINUTE} calls in the last minute that read whole systems; wait a moment`,
    );
  use.recent.push(now);
  use.underWay++;
  try {
    return await work();
  } finally {
    use.underWay--;
    // A person who is not calling is not remembered.
    if (use.underWay === 0 && use.recent.every((at) => Date.now() - at >= 60_000)) uses.delete(caller.person);
  }
}
