import type { HostedObject } from '../hosted/objects.ts';
import { loadZones } from '../zones/system-zones.ts';
import { type Look, lookInto, type Seen } from './look.ts';

const zones = loadZones();

/** What a thread does for {@link lookAt}. @returns also the milliseconds that it took */
export function lookInThread({ object, look }: { object: HostedObject; look: Look }): { seen: Seen; took: number } {
  const began = performance.now();
  const seen = lookInto(object, look, zones);
  return { seen, took: performance.now() - began };
}
