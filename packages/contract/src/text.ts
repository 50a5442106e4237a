/** What pages and tables need of the interface, without the checks. */

export * from './choices.ts';
export { type Folded, foldSeries, sayFolded } from './fold-series.ts';
export { countOperations, sayCounts } from './say-counts.ts';
export { sayLeft } from './say-left.ts';
