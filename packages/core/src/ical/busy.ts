import { type Component, lineOf } from './content.ts';

const wordOf = (component: Component, name: string): string => lineOf(component, name)?.value.trim().toUpperCase() ?? '';

/** Does it leave its owner free (RFC 5545, 3.8.2.7)? */
export const isTransparent = (event: Component): boolean => wordOf(event, 'TRANSP') === 'TRANSPARENT';
/** Is it, or may it be, a time that is taken? */
export const isBusyEvent = (event: Component): boolean => !isTransparent(event) && wordOf(event, 'STATUS') !== 'CANCELLED';
export const isTentative = (event: Component): boolean => wordOf(event, 'STATUS') === 'TENTATIVE';
/** Are others to see no more than its time? What is not known to be public is taken for private (RFC 5545, 3.8.1.3). */
export const isPrivateComponent = (component: Component): boolean =>
  component.lines.some((l) => l.name === 'CLASS' && l.value.trim().toUpperCase() !== 'PUBLIC');

/** What its CLASS says; null: nothing, which is public. */
export function visibilityOf(component: Component): 'public' | 'private' | 'confidential' | null {
  if (isPrivateComponent(component)) return wordOf(component, 'CLASS') === 'CONFIDENTIAL' ? 'confidential' : 'private';
  return lineOf(component, 'CLASS') === undefined ? null : 'public';
}
