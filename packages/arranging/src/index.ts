/** What the editor and `lanes draft` know: prepared lanes, suggestions, sentences, and what differs between two lanes. */

export * from './compare.ts';
export * from './from-now-on.ts';
export * from './sentence.ts';
export { NOT_CHOSEN, pointerOf, soundPart } from './sound.ts';
export * from './starters.ts';
export { type Suggestion, suggestMaps, suggestWhens, valuesOf } from './suggest.ts';
