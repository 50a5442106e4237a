import { fieldTypes } from '@monsoon/core';
import * as yup from 'yup';
import { asked, type Kind, keyed } from '../kind.ts';
import { dateForms } from './columns.ts';
import { CsvFiles } from './csv.ts';
import type { CsvSettings } from './settings.ts';

const name = () => yup.string().min(1).max(200);

const file = yup
  .object({
    label: name(),
    key: yup.array(name().required()).min(1).max(16),
    delimiter: yup.string().oneOf([',', ';', '\t', '|']),
    types: keyed(
      yup
        .string()
        .oneOf([...fieldTypes])
        .required(),
      'Types',
    ),
    formats: keyed(
      yup
        .string()
        .oneOf([...dateForms])
        .required(),
      'Date forms',
    ),
    write: yup.array(name().required()).max(500),
    create: yup.boolean(),
    remove: yup.boolean(),
    ownKeys: yup.boolean(),
  })
  .noUnknown();

export const csv: Kind = {
  label: 'Files (CSV)',
  hint: 'A spreadsheet export, or a folder of them: each file is a collection.',
  settings: yup
    .object({
      address: yup
        .string()
        .label('File or folder')
        .max(1000)
        .matches(/^\/[^\0]*$/, '${path} is not a path such as /srv/exports')
        .required()
        .meta(asked('on the machine that Monsoon runs on, below a folder that its operator allows')),
      collections: keyed(file, 'Collections').meta(
        asked('by the name of the file without .csv: its key, types, date forms, and what may be written', { lines: 8 }),
      ) as unknown as yup.AnyObjectSchema,
    })
    .noUnknown()
    .required(),
  secrets: yup.object({}).noUnknown().required(),
  open(s: CsvSettings, _secrets: object, options) {
    return { records: new CsvFiles(s, options), close: async () => undefined };
  },
};
