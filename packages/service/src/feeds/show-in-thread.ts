import { loadZones } from '../zones/system-zones.ts';
import { type Shown, type Sifting, showObject } from './show-object.ts';

const zones = loadZones();

/** What a thread does for `showApart`. */
export const showInThread = ({ text, sifting }: { text: string; sifting: Sifting }): Shown => showObject(text, sifting, zones);
