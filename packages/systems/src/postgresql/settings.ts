import type { FieldType } from '@monsoon/core';

export interface Place {
  address: string;
  user: string;
  tls?: 'verify' | 'require' | 'off';
  authority?: string;
  connections?: number;
  timeout?: number;
}

/** What an administrator says of one table beyond what the catalogue knows. */
export interface TableSettings {
  table?: string | undefined;
  label?: string | undefined;
  /** columns that name a row, where there is no primary key: of a view */
  key?: string[] | undefined;
  /** a column that every change of a row moves on */
  modified?: string | undefined;
  created?: string | undefined;
  /** the only columns that are ever written */
  write?: string[] | undefined;
  create?: boolean | undefined;
  remove?: boolean | undefined;
  /** for a referring column, the column of the other table that is shown */
  labels?: Record<string, string> | undefined;
  /** what a column means where its type does not say it: an address that is a person */
  types?: Record<string, FieldType> | undefined;
  page?: string | undefined;
}

export interface PostgreSqlSettings extends Place {
  schema?: string;
  zone?: string;
  collections?: Record<string, TableSettings>;
}
