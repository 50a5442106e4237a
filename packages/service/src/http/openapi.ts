import type { SchemaDescription, SchemaInnerTypeDescription, SchemaObjectDescription } from 'yup';
import { VERSION } from '../app.ts';
import type { AnyRoute } from './route.ts';

type Json = Record<string, unknown>;
/** What a schema is for. */
type Use = 'request' | 'answer' | 'editor';
interface Meta {
  schema?: Json;
  schemaOf?: { describe(): SchemaDescription };
  /** what each value is, where the names are a person's own. Described with options, or Yup leaves lazy schemas inside unresolved */
  each?: { describe(options: object): SchemaDescription };
}

/**
 * A Yup schema as JSON Schema (draft 2020-12, which OpenAPI 3.1 uses). An object whose names are a person's own says in
 * its meta what each value is.
 * @param use `editor`: names that are not known are faults. `answer`: what has a default is always there
 */
export function jsonSchema(description: SchemaDescription, use: Use = 'request'): Json {
  const meta = (description.meta ?? {}) as Meta;
  const base = meta.schema ?? (meta.schemaOf === undefined ? bare(description, meta, use) : jsonSchema(meta.schemaOf.describe(), use));
  if (!description.nullable || typeof base['type'] !== 'string') return base;
  return { ...base, type: [base['type'], 'null'], ...(Array.isArray(base['enum']) ? { enum: [...(base['enum'] as unknown[]), null] } : {}) };
}

function bare(description: SchemaDescription, meta: Meta, use: Use): Json {
  const rule = (name: string) => description.tests.find((t) => t.name === name)?.params?.[name] as number | undefined;
  const limits = (low: string, high: string) => ({
    ...(rule('min') === undefined ? {} : { [low]: rule('min') }),
    ...(rule('max') === undefined ? {} : { [high]: rule('max') }),
  });
  const choices = description.oneOf.length > 0 ? { enum: description.oneOf } : {};
  switch (description.type) {
    case 'string':
      return { type: 'string', ...limits('minLength', 'maxLength'), ...choices };
    case 'number':
      return { type: description.tests.some((t) => t.name === 'integer') ? 'integer' : 'number', ...limits('minimum', 'maximum') };
    case 'boolean':
      return { type: 'boolean' };
    case 'array': {
      const inner = (description as SchemaInnerTypeDescription).innerType;
      return {
        type: 'array',
        ...limits('minItems', 'maxItems'),
        items: inner === undefined || Array.isArray(inner) ? {} : jsonSchema(inner as SchemaDescription, use),
      };
    }
    case 'object': {
      if (meta.each !== undefined) return { type: 'object', additionalProperties: jsonSchema(meta.each.describe({}), use) };
      const fields = Object.entries((description as SchemaObjectDescription).fields) as [string, SchemaDescription][];
      const isThere = (f: SchemaDescription) => (use === 'answer' ? !f.optional || f.default !== undefined : !f.optional && f.default === undefined);
      const required = fields.filter(([, f]) => isThere(f)).map(([name]) => name);
      return {
        type: 'object',
        properties: Object.fromEntries(fields.map(([name, f]) => [name, jsonSchema(f, use)])),
        ...(required.length > 0 ? { required } : {}),
        ...(use === 'editor' && description.tests.some((t) => t.name === 'noUnknown') ? { additionalProperties: false } : {}),
      };
    }
    default:
      return {};
  }
}

const described = (schema: unknown) => (schema as { describe(): SchemaDescription }).describe();

const problem = {
  type: 'object',
  required: ['type', 'title', 'status', 'detail'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string' },
    problems: {
      type: 'array',
      items: { type: 'object', required: ['pointer', 'reason'], properties: { pointer: { type: 'string' }, reason: { type: 'string' } } },
    },
  },
};

/** The OpenAPI 3.1 document of the declared routes. */
export function openApi(routes: readonly AnyRoute[]): Json {
  const paths: Record<string, Record<string, Json>> = {};
  for (const spec of routes) {
    const path = `/api/v1${spec.path.replace(/:(\w+)/g, '{$1}')}`;
    const inPath = [...spec.path.matchAll(/:(\w+)/g)].map((m) => ({ name: m[1], in: 'path', required: true, schema: { type: 'string' } }));
    const query =
      spec.query === undefined
        ? []
        : Object.entries((described(spec.query) as SchemaObjectDescription).fields).map(([name, f]) => ({
            name,
            in: 'query',
            required: !(f as SchemaDescription).optional && (f as SchemaDescription).default === undefined,
            schema: jsonSchema(f as SchemaDescription),
          }));
    const status = spec.status ?? (spec.answer === undefined ? 204 : spec.method === 'post' ? 201 : 200);
    const good =
      spec.answer === undefined
        ? { description: 'Done' }
        : {
            description: 'Done',
            content: { 'application/json': { schema: jsonSchema(described(spec.answer), 'answer') } },
          };
    paths[path] ??= {};
    paths[path][spec.method] = {
      summary: spec.summary,
      parameters: [...inPath, ...query],
      ...(spec.body === undefined
        ? {}
        : { requestBody: { required: true, content: { 'application/json': { schema: jsonSchema(described(spec.body)) } } } }),
      ...(spec.may === 'anybody' ? { security: [] } : {}),
      'x-may': spec.may,
      responses: { [status]: good, default: { description: 'A problem (RFC 9457)', content: { 'application/problem+json': { schema: problem } } } },
    };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Monsoon', version: VERSION, license: { name: 'MIT', identifier: 'MIT' } },
    servers: [{ url: '/' }],
    security: [{ token: [] }, { session: [] }],
    components: {
      securitySchemes: { token: { type: 'http', scheme: 'bearer' }, session: { type: 'apiKey', in: 'cookie', name: 'monsoon_session' } },
    },
    paths,
  };
}
