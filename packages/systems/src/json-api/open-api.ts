import type { FieldType } from '@monsoon/core';
import type { CollectionDescriptor, Descriptor, FieldDescriptor } from './descriptor.ts';

type Json = Record<string, unknown>;
const object = (value: unknown): Json => (value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Json) : {});
const list = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

/** How deep schemas are followed, and how many collections and fields a draft has at most. */
const most = { depth: 4, collections: 40, fields: 200, references: 10, notes: 100 };

/**
 * A first descriptor from an OpenAPI 3 document: what lists objects is a collection; what a draft cannot know is said in
 * the notes.
 */
export function draftDescriptor(document: unknown): { descriptor: Descriptor; notes: string[] } {
  const root = object(document);
  const notes: string[] = [];
  if (!/^3\./.test(String(root['openapi'] ?? ''))) throw new RangeError('this is no OpenAPI 3 document: it has no "openapi: 3..." at its top');
  const read = (value: unknown, left = most.references): Json => {
    const found = object(value);
    const reference = found['$ref'];
    if (typeof reference !== 'string') return found;
    if (!reference.startsWith('#/') || left === 0) return {};
    const target = reference
      .slice(2)
      .split('/')
      .reduce<unknown>((at, key) => object(at)[key.replaceAll('~1', '/').replaceAll('~0', '~')], root);
    return read(target, left - 1);
  };
  // Each schema is put together once, however often others refer to it.
  const known = new Map<Json, Json>();
  const schemaOf = (value: unknown): Json => {
    const schema = read(value);
    const before = known.get(schema);
    if (before !== undefined) return before;
    known.set(schema, schema);
    const whole = together(schema);
    known.set(schema, whole);
    return whole;
  };
  const together = (schema: Json): Json => {
    const all = list(schema['allOf']).map((part) => schemaOf(part));
    if (all.length === 0) return schema;
    return {
      ...schema,
      type: 'object',
      properties: Object.assign({}, ...all.map((a) => object(a['properties'])), object(schema['properties'])) as Json,
    };
  };
  const paths = object(root['paths']);
  // The path to a single one: `/visits/{id}` of `/visits`.
  const itemPaths = new Map<string, string>();
  for (const path of Object.keys(paths)) {
    const of = /^(.*)\/\{[^}/]+\}$/.exec(path)?.[1];
    if (of !== undefined && !itemPaths.has(of)) itemPaths.set(of, path);
  }
  const collections: Record<string, CollectionDescriptor> = {};
  for (const [path, operations] of Object.entries(paths)) {
    if (path.includes('{') || Object.keys(collections).length >= most.collections) continue;
    const found = listed(object(object(operations)['get']), read, schemaOf);
    if (found === null) continue;
    const itemPath = itemPaths.get(path);
    const name = path
      .split('/')
      .filter((p) => p !== '')
      .at(-1)!
      .replace(/[^\w.-]/g, '-')
      .slice(0, 64);
    if (itemPath === undefined) {
      notes.push(`${path} lists objects, and there is no path to a single one: it is left out`);
      continue;
    }
    collections[name] = collectionOf(name, path, itemPath, object(operations), object(paths[itemPath]), found, read, notes);
  }
  if (Object.keys(collections).length === 0) throw new RangeError('no path of this document lists objects that also have a path of their own');
  const authentication = authenticationFrom(root, read, notes);
  const left = notes.length - most.notes;
  return { descriptor: { collections, ...authentication }, notes: left > 0 ? [...notes.slice(0, most.notes), `and ${left} more`] : notes };
}

interface Listed {
  items: string;
  schema: Json;
  around: Json;
  parameters: { name: string; type: string }[];
}

function listed(get: Json, read: (v: unknown) => Json, schemaOf: (v: unknown) => Json): Listed | null {
  const answers = object(get['responses']);
  const answer = read(answers['200'] ?? answers['default']);
  const schema = schemaOf(object(object(answer['content'])['application/json'])['schema']);
  const parameters = list(get['parameters'])
    .map((p) => read(p))
    .filter((p) => p['in'] === 'query')
    .map((p) => ({ name: String(p['name']), type: String(read(p['schema'])['type'] ?? '') }));
  if (schema['type'] === 'array') return { items: '', schema: schemaOf(schema['items']), around: {}, parameters };
  for (const [name, value] of Object.entries(object(schema['properties']))) {
    const inner = schemaOf(value);
    const item = schemaOf(inner['items']);
    if (inner['type'] === 'array' && item['properties'] !== undefined)
      return { items: `/${escaped(name)}`, schema: item, around: object(schema['properties']), parameters };
  }
  return null;
}

const escaped = (name: string) => name.replaceAll('~', '~0').replaceAll('/', '~1');

function collectionOf(
  name: string,
  path: string,
  itemPath: string,
  many: Json,
  one: Json,
  found: Listed,
  read: (v: unknown) => Json,
  notes: string[],
): CollectionDescriptor {
  const properties = object(found.schema['properties']);
  const has = (names: string[]) => names.find((n) => n in properties);
  const parameter = (names: string[]) => found.parameters.find((p) => names.includes(p.name.toLowerCase()))?.name;
  const around = (names: string[]) => Object.keys(found.around).find((n) => names.includes(n.toLowerCase()));
  const idPath = itemPath.replace(/\{[^}]+\}$/, '{id}');
  const id = has(['id', 'uuid', 'key', 'number']) ?? 'id';
  if (!(id in properties)) notes.push(`${name}: which property is the id is not clear; "id" is assumed`);
  const modified = has(['updated_at', 'updatedAt', 'modified', 'modified_at', 'last_modified']);
  const created = has(['created_at', 'createdAt', 'created']);
  const deleted = has(['deleted', 'is_deleted', 'archived']);
  const since = parameter(['updated_since', 'modified_since', 'since', 'updated_after', 'modified_after']);
  const size = parameter(['limit', 'per_page', 'page_size', 'pagesize', 'count']);
  const cursor = parameter(['cursor', 'page_token', 'pagetoken', 'after', 'starting_after']);
  const mark = around(['next', 'next_cursor', 'nextcursor', 'next_page_token', 'nextpagetoken']);
  const page = parameter(['page', 'page_number']);
  const offset = parameter(['offset', 'skip', 'start']);
  const next =
    cursor !== undefined && mark !== undefined
      ? { at: `/${escaped(mark)}`, parameter: cursor }
      : page !== undefined
        ? { page }
        : offset !== undefined
          ? { offset }
          : undefined;
  if (next === undefined) notes.push(`${name}: no parameter asks for the next page, so far as is seen`);
  if (since === undefined) notes.push(`${name}: nothing asks for what changed since; each check reads everything`);
  const ways = (method: string) => one[method.toLowerCase()] !== undefined;
  const change = ways('PATCH') ? 'PATCH' : ways('PUT') ? 'PUT' : undefined;
  return {
    label: `${name[0]!.toUpperCase()}${name.slice(1).replace(/[_-]+/g, ' ')}`,
    list: {
      path,
      items: found.items,
      ...(size === undefined ? {} : { size: { parameter: size, value: 100 } }),
      ...(next === undefined ? {} : { next }),
      ...(since === undefined ? {} : { since: { parameter: since, overlap: 5 } }),
    },
    read: { path: idPath },
    ...(many['post'] === undefined ? {} : { create: { method: 'POST' as const, path, ...keyOf(object(many['post']), read) } }),
    ...(change === undefined ? {} : { change: { method: change, path: idPath, ifMatch: false, ...(change === 'PUT' ? { whole: true } : {}) } }),
    ...(ways('DELETE') ? { remove: { method: 'DELETE' as const, path: idPath, ifMatch: false } } : {}),
    id: `/${escaped(id)}`,
    ...(deleted === undefined ? {} : { deleted: `/${escaped(deleted)}` }),
    ...(modified === undefined ? {} : { modified: `/${escaped(modified)}`, version: `/${escaped(modified)}` }),
    ...(created === undefined ? {} : { created: `/${escaped(created)}` }),
    fields: fieldsOf(properties, '', '', 1, read, new Set([id, deleted, modified, created].filter((n) => n !== undefined))).slice(0, most.fields),
  };
}

function keyOf(post: Json, read: (v: unknown) => Json): { key?: string } {
  const header = list(post['parameters'])
    .map((p) => read(p))
    .find((p) => p['in'] === 'header' && /idempotency/i.test(String(p['name'])));
  return header === undefined ? {} : { key: String(header['name']) };
}

function fieldsOf(properties: Json, at: string, prefix: string, depth: number, read: (v: unknown) => Json, but: Set<string>): FieldDescriptor[] {
  return Object.entries(properties).flatMap(([property, value]): FieldDescriptor[] => {
    if (but.has(property)) return [];
    const schema = read(value);
    const pointer = `${at}/${escaped(property)}`;
    const name = `${prefix}${property}`.replace(/[^\w.-]/g, '_').slice(0, 64);
    const own = object(schema['properties']);
    const more = {
      ...(schema['readOnly'] === true ? { readOnly: true } : {}),
      ...(typeof schema['description'] === 'string' ? { label: schema['description'].slice(0, 100) } : {}),
    };
    if (Object.keys(own).length > 0) {
      if ('email' in own) return [{ name, type: 'person', at: pointer, ...more }];
      if ('id' in own && ('name' in own || 'title' in own))
        return [{ name, type: 'reference', at: pointer, ...('name' in own ? {} : { labelAt: '/title' }), ...more }];
      return depth >= most.depth ? [] : fieldsOf(own, pointer, `${name}.`, depth + 1, read, new Set());
    }
    const type = typeOf(schema, property, read);
    if (type === null) return [];
    const choices = list(type === 'choices' ? read(schema['items'])['enum'] : schema['enum']).filter(
      (c): c is string => typeof c === 'string' && c !== '',
    );
    return [
      {
        name,
        type,
        at: pointer,
        ...(choices.length > 0 ? { choices } : {}),
        ...(type === 'duration'
          ? { unit: /sec/i.test(property) ? ('seconds' as const) : /hour/i.test(property) ? ('hours' as const) : ('minutes' as const) }
          : {}),
        ...(typeof schema['maxLength'] === 'number' && (type === 'text' || type === 'long text') ? { limit: schema['maxLength'] } : {}),
        ...more,
      },
    ];
  });
}

function typeOf(schema: Json, property: string, read: (v: unknown) => Json): FieldType | null {
  const kind = [schema['type']].flat().find((t) => t !== 'null');
  if (kind === 'boolean') return 'yes/no';
  if (kind === 'number' || kind === 'integer') return /duration|length|minutes/i.test(property) ? 'duration' : 'number';
  if (kind === 'array') {
    const item = read(schema['items']);
    if (object(item['properties'])['email'] !== undefined) return 'people';
    return item['type'] === 'string' ? 'choices' : null;
  }
  if (kind !== 'string') return null;
  if (list(schema['enum']).length > 0) return 'choice';
  switch (schema['format']) {
    case 'date':
      return 'date';
    case 'date-time':
      return 'date-time';
    case 'time':
      return 'time';
    case 'email':
      return 'person';
    case 'uri':
    case 'url':
      return 'web address';
    default:
      return /note|description|body|comment/i.test(property) || Number(schema['maxLength'] ?? 0) > 500 ? 'long text' : 'text';
  }
}

function authenticationFrom(root: Json, read: (v: unknown) => Json, notes: string[]): Pick<Descriptor, 'authentication'> {
  const schemes = Object.values(object(object(root['components'])['securitySchemes'])).map((s) => read(s));
  for (const scheme of schemes) {
    if (scheme['type'] === 'oauth2') {
      const flows = object(scheme['flows']);
      const code = object(flows['authorizationCode']);
      const client = object(flows['clientCredentials']);
      const scopes = Object.keys(object((code['tokenUrl'] === undefined ? client : code)['scopes']));
      const more = scopes.length > 0 ? { scopes } : {};
      if (typeof code['tokenUrl'] === 'string')
        return {
          authentication: {
            kind: 'oauth2',
            grant: 'authorization code',
            authorize: String(code['authorizationUrl']),
            token: code['tokenUrl'],
            ...more,
          },
        };
      if (typeof client['tokenUrl'] === 'string')
        return { authentication: { kind: 'oauth2', grant: 'client credentials', token: client['tokenUrl'], ...more } };
    }
    if (scheme['type'] === 'apiKey' && (scheme['in'] === 'header' || scheme['in'] === 'query'))
      return { authentication: { kind: scheme['in'], name: String(scheme['name']) } };
    if (scheme['type'] === 'http' && scheme['scheme'] === 'basic') return { authentication: { kind: 'basic' } };
    if (scheme['type'] === 'http' && scheme['scheme'] === 'bearer') return { authentication: { kind: 'bearer' } };
  }
  notes.push('how a caller is known is not said: a bearer token is assumed');
  return {};
}
