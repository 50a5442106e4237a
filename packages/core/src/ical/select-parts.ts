import { type Component, type Line, parseComponents, writeComponents } from './content.ts';

/** Which parts of a calendar object are wanted (RFC 4791, 9.6.1). */
export interface Selection {
  /** of a component: `VCALENDAR` at the outside */
  name: string;
  properties: 'all' | { name: string; withValue: boolean }[];
  components: 'all' | Selection[];
}

/** The text with nothing but the wanted parts. @throws UnreadableEvent */
export const selectParts = (text: string, selection: Selection): string =>
  writeComponents(
    parseComponents(text)
      .filter((root) => root.name === selection.name)
      .map((root) => select(root, selection)),
  );

function select(component: Component, { properties, components }: Selection): Component {
  return {
    ...component,
    lines: properties === 'all' ? component.lines : component.lines.flatMap((line) => wanted(line, properties)),
    components:
      components === 'all'
        ? component.components
        : component.components.flatMap((inner) => {
            const of = components.find((c) => c.name === inner.name);
            return of === undefined ? [] : [select(inner, of)];
          }),
  };
}

function wanted(line: Line, properties: Exclude<Selection['properties'], 'all'>): Line[] {
  const found = properties.find((p) => p.name === line.name);
  if (found === undefined) return [];
  return [found.withValue ? line : { ...line, value: '', source: null }];
}
