export { readSettings, type Settings } from './settings.ts';
