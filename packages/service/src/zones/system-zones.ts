import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { definedZone, parseTzif, UTC, type Zone, type ZoneTable } from '@monsoon/core';

interface WindowsZones {
  supplemental: { windowsZones: { mapTimezones: { mapZone: { _other: string; _territory: string; _type: string } }[] } };
}

/**
 * The zones of the operating system's tzdata, read once. Windows names, which occur in real calendars, are found too.
 * @throws Error when there is no tzdata to read
 */
export function loadZones(folder = '/usr/share/zoneinfo'): ZoneTable {
  let source: string;
  try {
    source = readFileSync(join(folder, 'tzdata.zi'), 'utf8');
  } catch {
    throw new Error(`there is no time zone data in ${folder}: install the package tzdata`);
  }
  const version = /^# version (\S+)/.exec(source)?.[1] ?? 'unknown';
  const zones = new Map<string, Zone>([
    ['utc', UTC],
    ['etc/utc', UTC],
    ['z', UTC],
  ]);
  const names = [...source.matchAll(/^(?:Z (\S+)|L \S+ (\S+))/gm)].map((m) => m[1] ?? m[2] ?? '');
  for (const name of names) {
    if (zones.has(name.toLowerCase())) continue;
    try {
      zones.set(name.toLowerCase(), parseTzif(name, readFileSync(join(folder, name))));
    } catch {
      // A name without a file (packages leave old links out) is simply not known.
    }
  }
  const windows = createRequire(import.meta.url)('cldr-core/supplemental/windowsZones.json') as WindowsZones;
  for (const { mapZone } of windows.supplemental.windowsZones.mapTimezones) {
    const zone = zones.get(mapZone._type.replace(/ .*/, '').toLowerCase());
    if (mapZone._territory === '001' && zone !== undefined) zones.set(mapZone._other.toLowerCase(), zone);
  }
  return { version, find: (name) => zones.get(name.trim().toLowerCase()) ?? definedZone(name) };
}
