import type { Baseline, LinkValues } from '@monsoon/core';
import * as yup from 'yup';

/** What shapes are made of. */

export const text = () => yup.string().defined();
export const maybe = () => yup.string().defined().nullable();
export const time = () =>
  yup
    .string()
    .defined()
    .meta({ schema: { type: 'string', format: 'date-time' } });
export const maybeTime = () =>
  yup
    .string()
    .defined()
    .nullable()
    .meta({ schema: { type: ['string', 'null'], format: 'date-time' } });
export const count = () => yup.number().integer().min(0).defined();
export const values = () =>
  yup
    .mixed<LinkValues>()
    .defined()
    .meta({ schema: { type: 'object', description: 'event properties by name' } });
export const baseline = () =>
  yup
    .mixed<Baseline>()
    .defined()
    .nullable()
    .meta({ schema: { type: ['object', 'null'], description: 'the values on which both sides last agreed' } });
export const list = <T extends yup.ISchema<unknown, unknown>>(of: T) =>
  yup.array(of as never).defined() as unknown as yup.ArraySchema<yup.InferType<T>[], yup.AnyObject>;
export const page = <T extends yup.ISchema<unknown, unknown>>(of: T) => yup.object({ items: list(of), next: maybe() }).noUnknown();
