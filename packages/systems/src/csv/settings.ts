import type { FieldType } from '@monsoon/core';
import type { DateForm } from './columns.ts';

/** What an administrator says of one file beyond what its values show. */
export interface FileSettings {
  label?: string | undefined;
  /** columns that name a row; "id" and the like unless said */
  key?: string[] | undefined;
  delimiter?: string | undefined;
  types?: Record<string, FieldType> | undefined;
  formats?: Record<string, DateForm> | undefined;
  write?: string[] | undefined;
  create?: boolean | undefined;
  remove?: boolean | undefined;
  /** the key column takes any text, so that a new row can be named by its maker */
  ownKeys?: boolean | undefined;
}

export interface CsvSettings {
  address: string;
  collections?: Record<string, FileSettings>;
}
