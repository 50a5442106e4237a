import { readFileSync } from 'node:fs';
import { departureChoices, laneSchema } from '@monsoon/core';
import { kinds } from '@monsoon/systems';
import { expect } from 'chai';
import type { SchemaDescription } from 'yup';

const docs = (name: string) => readFileSync(new URL(`../../../docs/${name}.md`, import.meta.url), 'utf8');

/** The names of all settings in a schema, however deep they are. */
function namesIn(schema: SchemaDescription): string[] {
  const { fields = {}, innerType } = schema as { fields?: Record<string, SchemaDescription>; innerType?: SchemaDescription };
  const inner = [innerType ?? []].flat() as SchemaDescription[];
  return [...Object.entries(fields).flatMap(([name, field]) => [name, ...namesIn(field)]), ...inner.flatMap(namesIn)];
}
/** Said as a setting: in code marks, or in an example. */
const isSaid = (text: string, name: string) => new RegExp(`[\`{, ("]${name.replaceAll('.', '\\.')}[\`:,) ]`).test(text);

describe('the documentation names every setting', () => {
  for (const [name, kind] of Object.entries(kinds))
    it(`of a system of the kind ${name}`, () => {
      const text = docs('connecting');
      const wanted = [...new Set([...namesIn(kind.settings.describe()), ...namesIn(kind.secrets.describe())])];
      expect(wanted.filter((setting) => !isSaid(text, setting))).to.deep.equal([]);
    });

  it('of a lane', () => {
    const text = docs('lane-file');
    const wanted = [...new Set([...namesIn(laneSchema.describe()), ...Object.keys(departureChoices)])];
    expect(wanted.filter((setting) => !isSaid(text, setting))).to.deep.equal([]);
  });
});
