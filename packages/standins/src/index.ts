export { Store } from './common/store.ts';
