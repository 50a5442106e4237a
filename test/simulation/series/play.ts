import type { Played } from '../transcript.ts';
import { checkDrag, checkEdit, checkPeace, checkRule, checkSwitch } from './checks.ts';
import type { Forms, Place, Repeating } from './people.ts';
import { SeriesWorld } from './world.ts';

/** A history of series by the number that it is drawn with, for those that are kept. */
export interface SeriesHistory {
  series: number;
  takes: Repeating;
  /** few, unless said: kept ones are older than the others */
  forms?: Forms;
}

/** @throws Wrong */
export async function playSeries(
  seed: number,
  log: Place['log'] = () => undefined,
  takes: Repeating = 'each occurrence',
  forms: Forms = 'few',
): Promise<{ played: Played }> {
  const world = new SeriesWorld(seed, takes, forms, log);
  const steps = 6 + world.random.below(14);
  for (let i = 0; i < steps; i++) {
    for (let acts = world.random.below(3); acts >= 0; acts--) world.people.act();
    if (world.random.chance(0.15)) world.passTime();
    if (world.random.chance(0.8)) await world.run(world.random.chance(0.2), world.random.chance(0.4));
    if (world.random.chance(0.15)) {
      await world.settle();
      if (takes === 'each occurrence') {
        await checkDrag(world);
        await world.settle();
        await checkEdit(world);
      }
      if (takes === 'rule one way') await checkRule(world);
    }
  }
  await checkPeace(world);
  if (takes !== 'of records' && world.random.chance(0.3)) {
    await checkSwitch(world);
    await checkPeace(world);
  }
  return { played: world.played };
}
