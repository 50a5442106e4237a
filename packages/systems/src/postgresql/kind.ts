import { fieldTypes } from '@monsoon/core';
import * as yup from 'yup';
import { addressSetting, asked, type Kind, keyed, limitSettings, networkSettings } from '../kind.ts';
import { PostgreSql } from './postgresql.ts';
import type { PostgreSqlSettings } from './settings.ts';

const name = () => yup.string().min(1).max(63);
const table = yup
  .object({
    table: name(),
    label: yup.string().min(1).max(200),
    key: yup.array(name().required()).min(1).max(16),
    modified: name(),
    created: name(),
    write: yup.array(name().required()).max(500),
    create: yup.boolean(),
    remove: yup.boolean(),
    labels: keyed(name().required(), 'Labels'),
    types: keyed(
      yup
        .string()
        .oneOf([...fieldTypes])
        .required(),
      'Types',
    ),
    page: yup.string().max(500),
  })
  .noUnknown();

export const postgresql: Kind = {
  label: 'Database (PostgreSQL)',
  hint: 'Any table or view as a collection of records.',
  settings: yup
    .object({
      address: addressSetting(/^postgres(ql)?:\/\/[^\s@/]+\/[^\s/?]+$/, 'postgresql://books.alder-wren.example:5432/hires').meta(
        asked('server, port and database, without user and password'),
      ),
      user: yup.string().label('User').min(1).max(63).required().meta(asked('one of its own, with no more rights than the lanes need')),
      schema: name()
        .label('Schema')
        .default('public')
        .meta(asked('whose tables are the collections', { rare: true })),
      tls: yup
        .string<'verify' | 'require' | 'off'>()
        .label('TLS')
        .oneOf(['verify', 'require', 'off'])
        .default('verify')
        .meta(asked('verify: with a certificate that is trusted; require: encrypted, whatever its certificate; off: only where the way is safe')),
      zone: yup
        .string()
        .label('Time zone')
        .max(100)
        .meta(asked('of times that name none, such as Europe/London', { rare: true })),
      collections: keyed(table, 'Collections').meta(
        asked('by name: what may be written, which column reports changes, labels, types; what is not named can be read', { lines: 8 }),
      ) as unknown as yup.AnyObjectSchema,
      ...networkSettings,
      ...limitSettings,
    })
    .noUnknown()
    .required(),
  secrets: yup
    .object({ password: yup.string().label('Password').min(1).max(1000).required() })
    .noUnknown()
    .required(),
  open(s: PostgreSqlSettings, secrets: { password: string }, options) {
    const database = new PostgreSql(s, secrets.password, options);
    return {
      records: database,
      watch: (changed, lost) => database.watch((collection, ours) => changed({ collection, ours }), lost),
      close: () => database.close(),
    };
  },
};
