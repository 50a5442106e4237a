export type { App } from './app.ts';
export { type Config, readConfig } from './config.ts';
export { deviceHash } from './dav/caller.ts';
export { type Service, startService } from './service.ts';
export { loadZones } from './zones/system-zones.ts';
