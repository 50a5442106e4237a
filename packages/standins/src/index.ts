export { Store } from './front-desk/store.ts';
