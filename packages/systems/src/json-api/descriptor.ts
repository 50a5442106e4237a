import { type DurationUnit, durationUnits, type FieldType, fieldTypes } from '@monsoon/core';
import * as yup from 'yup';

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
  /** cannot be written */
  readOnly?: boolean | undefined;
  /** the longest text it takes */
  limit?: number | undefined;
  /** where it is written, if not where it is read; of a reference, its id */
  writeAt?: string | undefined;
  /** how a date-time is written: an instant in UTC, with its offset, or the wall clock alone beside its zone */
  as?: 'utc' | 'offset' | 'local' | undefined;
}

export interface CollectionDescriptor {
  label: string;
  list: {
    path: string;
    /** where the records are in an answer */
    items: string;
    size?: { parameter: string; value: number } | undefined;
    /** where an answer names the next page, and the parameter that asks for it */
    next?: { at: string; parameter: string } | undefined;
    /** the parameter that asks for records changed since a time, and how many seconds to look back again */
    since?: { parameter: string; overlap: number } | undefined;
  };
  /** with `{id}` */
  read: { path: string };
  create?: { method: 'POST' | 'PUT'; path: string; key?: string | undefined } | undefined;
  change?: { method: 'PATCH' | 'PUT' | 'POST'; path: string; ifMatch: boolean } | undefined;
  remove?: { method: 'DELETE' | 'POST'; path: string; ifMatch: boolean } | undefined;
  id: string;
  /** true there: the record was deleted */
  deleted?: string | undefined;
  version?: string | undefined;
  created?: string | undefined;
  modified?: string | undefined;
  /** where a person sees the record; with `{id}` */
  page?: string | undefined;
  fields: FieldDescriptor[];
}

/** A JSON API in words that Monsoon can follow. */
export interface Descriptor {
  collections: Record<string, CollectionDescriptor>;
  /** how change notices are signed */
  webhooks?: { signature: 'standard-webhooks' } | undefined;
}

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
    readOnly: yup.boolean(),
    limit: yup.number().integer().min(1),
    writeAt: pointer(),
    as: yup.string<'utc' | 'offset' | 'local'>().oneOf(['utc', 'offset', 'local']),
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
        next: yup.object({ at: pointer().defined(), parameter: yup.string().required() }).noUnknown().default(undefined),
        since: yup
          .object({ parameter: yup.string().required(), overlap: yup.number().min(0).max(86_400).required() })
          .noUnknown()
          .default(undefined),
      })
      .noUnknown()
      .required(),
    read: yup.object({ path: withId() }).noUnknown().required(),
    /** how a record is made; `key` is the header that carries an idempotency key */
    create: yup
      .object({
        method: yup.string<'POST' | 'PUT'>().oneOf(['POST', 'PUT']).default('POST'),
        path: path().required(),
        key: yup.string().matches(/^[\w-]{1,60}$/),
      })
      .noUnknown()
      .default(undefined),
    /** how one is changed, with only the fields that change; `ifMatch`: the version goes along, and a stale one is refused */
    change: yup
      .object({
        method: yup.string<'PATCH' | 'PUT' | 'POST'>().oneOf(['PATCH', 'PUT', 'POST']).default('PATCH'),
        path: withId(),
        ifMatch: yup.boolean().default(false),
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
    created: pointer(),
    modified: pointer(),
    page: yup.string().max(500),
    fields: yup.array(field).min(1).max(500).required(),
  })
  .noUnknown();

export const descriptorSchema = yup
  .object({
    collections: yup.lazy((value: unknown) =>
      yup
        .object(
          Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).map((name) => [name, collection.required()])),
        )
        .required()
        .test('any', 'collections: at least one is needed', (v) => Object.keys(v).length > 0),
    ),
    webhooks: yup
      .object({ signature: yup.string<'standard-webhooks'>().oneOf(['standard-webhooks']).required() })
      .noUnknown()
      .default(undefined),
  })
  .noUnknown()
  .required();
