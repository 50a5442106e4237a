import { type HoldQuestion, type Operation, type Pair, type Plan, plan } from '@monsoon/core';
import type { Planner } from './world.ts';

/** A planner that changes what the real one plans, as a whole. */
export const whole =
  (change: (result: Plan, ...given: Parameters<Planner>) => Plan): Planner =>
  (...given) =>
    change(plan(...given), ...given);

/** A planner that changes or leaves out each operation. */
export const each = (change: (o: Operation, ...given: Parameters<Planner>) => Operation | null): Planner =>
  whole((result, ...given) => ({ ...result, operations: result.operations.flatMap((o) => change(o, ...given) ?? []) }));

/** The question that an operation asks. */
export const asks = (o: Operation): HoldQuestion | null => (o.kind === 'hold' ? o.hold.question : null);

/** The operation as one of another kind, with the pair in another state: a lie that the types would not let pass. */
export const turned = (o: Operation, kind: Operation['kind'], state: Pair['state'], more: Partial<Operation> = {}): Operation =>
  ({ ...o, ...more, kind, pair: { ...o.pair, ...more.pair, state } }) as Operation;

export const unlink = (o: Operation): Operation => turned(o, 'unlink', 'unlinked', { recordEdits: {}, eventEdits: {}, changes: [] });
