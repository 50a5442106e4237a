export * from './tables/access.ts';
export * from './tables/feeds.ts';
export * from './tables/hosted.ts';
export * from './tables/installation.ts';
export * from './tables/lanes.ts';
export * from './tables/runs.ts';
export * from './tables/systems.ts';
export * from './tables/telling.ts';
