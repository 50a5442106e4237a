/** What pages and tables need of it, without the checks. */

export { asWritten } from './compare.ts';
export { fromNowOn } from './from-now-on.ts';
