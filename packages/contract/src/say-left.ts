/**
 * How long a run still takes, if it goes on as so far: `about 2 min left`; nothing while too little is done to tell.
 * @param now milliseconds since 1970
 */
export function sayLeft(run: { startedAt: string | null; done: number; planned: number }, now: number): string {
  if (run.startedAt === null || run.done === 0 || run.planned <= run.done) return '';
  const passed = (now - Date.parse(run.startedAt)) / 1000;
  if (passed < 3) return '';
  const left = (passed / run.done) * (run.planned - run.done);
  return left < 90 ? `about ${Math.max(1, Math.round(left))} s left` : `about ${Math.round(left / 60)} min left`;
}
