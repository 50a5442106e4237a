import type { SettingShape } from '@monsoon/contract';
import type { AnyObjectSchema, SchemaDescription } from 'yup';

interface Meta {
  hint?: string;
  example?: string;
  lines?: number;
  rare?: boolean;
}

/** The settings of a kind as a person is asked for them: what one line can hold as a field, what has parts as YAML. */
export function settingsOf(schema: AnyObjectSchema): SettingShape[] {
  const { fields } = schema.describe();
  return Object.entries(fields).map(([name, field]) => {
    const described = field as SchemaDescription;
    const meta = (described.meta ?? {}) as Meta;
    const choices = (described.oneOf ?? []).filter((c): c is string => typeof c === 'string');
    const fallback = described.default;
    return {
      name,
      label: described.label ?? `${name.slice(0, 1).toUpperCase()}${name.slice(1)}`,
      hint: meta.hint ?? null,
      type: typeOf(described, choices),
      choices,
      required: described.optional === false && fallback === undefined,
      default: typeof fallback === 'string' || typeof fallback === 'number' || typeof fallback === 'boolean' ? fallback : null,
      lines: meta.lines ?? (described.type === 'object' || described.type === 'lazy' ? 8 : 1),
      rare: meta.rare ?? false,
    };
  });
}

function typeOf(described: SchemaDescription, choices: string[]): SettingShape['type'] {
  if (choices.length > 0) return 'choice';
  if (described.type === 'number') return 'number';
  if (described.type === 'boolean') return 'yes/no';
  return described.type === 'string' ? 'text' : 'yaml';
}
