import { type DurationUnit, durationUnits, type FieldType, fieldTypes } from '@monsoon/core';
import * as yup from 'yup';
import { type Authentication, authenticationSchema } from '../http/authentication.ts';
import { keyed, limitSettings } from '../kind.ts';

/** A field of a collection and where it is found in a record (JSON Pointer, RFC 6901). */
export interface FieldDescriptor {
  name: string;
  label?: string | undefined;
  type: FieldType;
  at: string;
  choices?: string[] | undefined;
  unit?: DurationUnit | undefined;
  /** for a date-time without offset: where the record names its IANA zone */
  zoneAt?: string | undefined;
  /** for references: where inside the value the id and the label are; `/id` and `/name` unless said */
  idAt?: string | undefined;
  labelAt?: string | undefined;
  /** for people: where inside the value the name and the address are; `/name` and `/email` unless said */
  nameAt?: string | undefined;
  emailAt?: string | undefined;
  /** for lists of objects: where inside each the value is */
  itemAt?: string | undefined;
  /** what the system's codes are called: `{ "1": "open" }` */
  values?: Record<string, string> | undefined;
  /** those codes are numbers */
  numbered?: boolean | undefined;
  /** cannot be written */
  readOnly?: boolean | undefined;
  /** the longest text it takes */
  limit?: number | undefined;
  /** where it is written, if not where it is read; of a reference, its id */
  writeAt?: string | undefined;
  /** how a date-time is written: an instant in UTC, with its offset, or the wall clock alone beside its zone; or as a number since 1970, which it then is read as too */
  as?: 'utc' | 'offset' | 'local' | 'seconds' | 'milliseconds' | undefined;
}

/**
 * How an answer leads to the next page: by a mark that a parameter gives back, by the address of the next page in the
 * body or in the Link header (RFC 8288), by counting pages, or by counting records.
 */
export interface NextPage {
  at?: string | undefined;
  parameter?: string | undefined;
  header?: 'link' | undefined;
  page?: string | undefined;
  first?: number | undefined;
  offset?: string | undefined;
}

/** How a request writes a record. */
export interface WriteDescriptor {
  /** below which pointer of the body the fields stand; at its top unless said */
  within?: string | undefined;
  /** where the answer holds the record; it is the answer unless said */
  answerAt?: string | undefined;
  /** what every body holds besides */
  fixed?: Record<string, unknown> | undefined;
}

export interface CollectionDescriptor {
  label: string;
  list: {
    path: string;
    /** where the records are in an answer */
    items: string;
    size?: { parameter: string; value: number } | undefined;
    next?: NextPage | undefined;
    /** the parameter that asks for records changed since a time, and how many seconds to look back again */
    since?: { parameter: string; overlap: number; as?: 'text' | 'seconds' | 'milliseconds' | undefined } | undefined;
    /** parameters that every listing has */
    query?: Record<string, string> | undefined;
    /** how deletions are found where no tombstones tell them: by listing everything each time, or once a day */
    deletions?: 'each time' | 'daily' | undefined;
  };
  /** with `{id}` */
  read: { path: string; at?: string | undefined };
  create?: ({ method: 'POST' | 'PUT'; path: string; key?: string | undefined; keyAt?: string | undefined } & WriteDescriptor) | undefined;
  change?: ({ method: 'PATCH' | 'PUT' | 'POST'; path: string; ifMatch: boolean; whole?: boolean | undefined } & WriteDescriptor) | undefined;
  remove?: { method: 'DELETE' | 'POST'; path: string; ifMatch: boolean } | undefined;
  id: string;
  /** true there: the record was deleted */
  deleted?: string | undefined;
  version?: string | undefined;
  /** the version of a single record is the ETag of its answer */
  etag?: boolean | undefined;
  /** the zone of wall clocks that name none */
  zone?: string | undefined;
  created?: string | undefined;
  modified?: string | undefined;
  /** where a person sees the record; with `{id}` */
  page?: string | undefined;
  fields: FieldDescriptor[];
}

/** A JSON API in words that Monsoon can follow. */
export interface Descriptor {
  collections: Record<string, CollectionDescriptor>;
  /** a token as a bearer token unless said */
  authentication?: Authentication | undefined;
  webhooks?: WebhookDescriptor | undefined;
  /** how many calls the system takes in which time */
  rate?: { calls: number; per: 'second' | 'minute' | 'hour' } | undefined;
}

/** How change notices are signed, and what they say. */
export interface WebhookDescriptor {
  /** by the Standard Webhooks rules, by an HMAC of the body in a header, or by the secret itself in a header */
  signature: 'standard-webhooks' | 'hmac-sha256' | 'hmac-sha1' | 'secret';
  header?: string | undefined;
  /** what stands before the signature in the header, such as "sha256=" */
  prefix?: string | undefined;
  encoding?: 'hex' | 'base64' | undefined;
  /** where a notice holds the record's id, and the kind of event */
  id?: string | undefined;
  type?: string | undefined;
  /** which kinds of events speak of which collection; a pattern with * at its end */
  types?: Record<string, string> | undefined;
}

export const authenticationOf = (descriptor: Descriptor): Authentication => descriptor.authentication ?? { kind: 'bearer' };

const pointer = () => yup.string().matches(/^(\/([^~/]|~[01])*)*$/, '${path} is not a JSON Pointer such as /customer/name');
const path = () =>
  yup
    .string()
    .matches(/^\/[^\s?#]*$/, '${path} is not a path such as /visits')
    .max(500);

const withId = () =>
  path()
    .matches(/\{id\}/, '${path} has no {id}')
    .required();

const parameter = () => yup.string().matches(/^[\w.[\]-]{1,100}$/, '${path} is the name of a parameter');
const texts = () => keyed(yup.string().max(1000).defined(), 'texts') as unknown as yup.Schema<Record<string, string> | undefined>;
const writing = { within: pointer(), answerAt: pointer(), fixed: yup.object().default(undefined) };

const field = yup
  .object({
    name: yup
      .string()
      .matches(/^[\w.-]{1,64}$/, '${path} is 1 to 64 letters, digits, dots, dashes or underscores')
      .required(),
    label: yup.string().max(200),
    type: yup
      .string<FieldType>()
      .oneOf([...fieldTypes])
      .required(),
    at: pointer().defined(),
    choices: yup.array(yup.string().required()).max(500),
    unit: yup.string<DurationUnit>().oneOf([...durationUnits]),
    zoneAt: pointer(),
    idAt: pointer(),
    labelAt: pointer(),
    nameAt: pointer(),
    emailAt: pointer(),
    itemAt: pointer(),
    values: texts(),
    numbered: yup.boolean(),
    readOnly: yup.boolean(),
    limit: yup.number().integer().min(1),
    writeAt: pointer(),
    as: yup.string<NonNullable<FieldDescriptor['as']>>().oneOf(['utc', 'offset', 'local', 'seconds', 'milliseconds']),
  })
  .noUnknown();

const collection = yup
  .object({
    label: yup.string().min(1).max(200).required(),
    list: yup
      .object({
        path: path().required(),
        items: pointer().defined(),
        size: yup
          .object({ parameter: yup.string().required(), value: yup.number().integer().min(1).max(10_000).required() })
          .noUnknown()
          .default(undefined),
        next: yup
          .object({
            at: pointer(),
            parameter: parameter(),
            header: yup.string<'link'>().oneOf(['link']),
            page: parameter(),
            first: yup.number().integer().min(0).max(1),
            offset: parameter(),
          })
          .noUnknown()
          .default(undefined)
          .test('one', '${path} says one way to the next page: at with or without parameter, header: link, page, or offset', (v) =>
            v === undefined ? true : [v.at, v.header, v.page, v.offset].filter((x) => x !== undefined).length === 1,
          ),
        since: yup
          .object({
            parameter: parameter().required(),
            overlap: yup.number().min(0).max(86_400).required(),
            as: yup.string<'text' | 'seconds' | 'milliseconds'>().oneOf(['text', 'seconds', 'milliseconds']),
          })
          .noUnknown()
          .default(undefined),
        query: texts(),
        deletions: yup.string<'each time' | 'daily'>().oneOf(['each time', 'daily']),
      })
      .noUnknown()
      .required(),
    read: yup.object({ path: withId(), at: pointer() }).noUnknown().required(),
    /** how a record is made; `key` is the header that carries an idempotency key */
    create: yup
      .object({
        method: yup.string<'POST' | 'PUT'>().oneOf(['POST', 'PUT']).default('POST'),
        path: path().required(),
        key: yup.string().matches(/^[\w-]{1,60}$/),
        keyAt: pointer(),
        ...writing,
      })
      .noUnknown()
      .default(undefined),
    /** how one is changed, with only the fields that change; `ifMatch`: the version goes along, and a stale one is refused */
    change: yup
      .object({
        method: yup.string<'PATCH' | 'PUT' | 'POST'>().oneOf(['PATCH', 'PUT', 'POST']).default('PATCH'),
        path: withId(),
        ifMatch: yup.boolean().default(false),
        /** the body holds the whole record as it is, with what changes */
        whole: yup.boolean(),
        ...writing,
      })
      .noUnknown()
      .default(undefined),
    remove: yup
      .object({
        method: yup.string<'DELETE' | 'POST'>().oneOf(['DELETE', 'POST']).default('DELETE'),
        path: withId(),
        ifMatch: yup.boolean().default(false),
      })
      .noUnknown()
      .default(undefined),
    id: pointer().defined(),
    deleted: pointer(),
    version: pointer(),
    etag: yup.boolean(),
    zone: yup.string().max(100),
    created: pointer(),
    modified: pointer(),
    page: yup.string().max(500),
    fields: yup.array(field).min(1).max(500).required(),
  })
  .noUnknown();

export const descriptorSchema = yup
  .object({
    collections: keyed(collection.required(), 'Collections', (all) =>
      all.required().test('any', 'collections: at least one is needed', (v) => Object.keys(v ?? {}).length > 0),
    ),
    authentication: authenticationSchema,
    webhooks: yup
      .object({
        signature: yup.string<WebhookDescriptor['signature']>().oneOf(['standard-webhooks', 'hmac-sha256', 'hmac-sha1', 'secret']).required(),
        header: yup
          .string()
          .matches(/^[\w-]{1,100}$/, '${path} is the name of a header')
          // Asked for only when the signature is known: a schema's description resolves conditions without a value.
          .when('signature', ([signature], s) => (signature === undefined || signature === 'standard-webhooks' ? s : s.required())),
        prefix: yup.string().max(50),
        encoding: yup.string<'hex' | 'base64'>().oneOf(['hex', 'base64']),
        id: pointer(),
        type: pointer(),
        types: texts(),
      })
      .noUnknown()
      .default(undefined),
    rate: limitSettings.rate,
  })
  .noUnknown()
  .required();
