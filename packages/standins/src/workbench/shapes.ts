import * as yup from 'yup';

export const kinds = ['projects', 'tasks', 'entries'] as const;
export type Kind = (typeof kinds)[number];
/** What the ids of each kind begin with. */
export const prefixes: Record<Kind, string> = { projects: 'W', tasks: 'T', entries: 'B' };
/** One record of each kind, as bodies and answers wrap it. */
export const single: Record<Kind, string> = { projects: 'project', tasks: 'task', entries: 'entry' };

const text = (most: number) => yup.string().max(most);
const day = () => yup.string().matches(/^\d{4}-\d\d-\d\d$/, '${path} is a day such as 2026-12-15');

export const shapes: Record<Kind, yup.ObjectSchema<yup.AnyObject>> = {
  projects: yup.object({ title: text(200).required(), customer: text(200).nullable() }).noUnknown(),
  tasks: yup
    .object({
      title: text(200),
      project_id: text(20).nullable(),
      starts_on: day().nullable(),
      due_on: day().nullable(),
      assignee: yup
        .object({ name: text(200), mail: yup.string().email() })
        .noUnknown()
        .nullable()
        .default(undefined),
      labels: yup
        .array(
          yup
            .object({ text: text(60).required() })
            .noUnknown()
            .required(),
        )
        .max(50),
      state: yup.number().oneOf([0, 1, 2]),
      details: text(20_000).nullable(),
      /** how often it is done again (RFC 5545, 3.3.10), and the series that it is one of */
      rule: text(500).nullable(),
      series: text(100).nullable(),
      client_ref: text(100),
    })
    .noUnknown(),
  entries: yup
    .object({
      task_id: text(20).nullable(),
      person: yup.string().email(),
      begun: yup.number().integer(),
      minutes: yup.number().integer().min(0).max(1440),
      note: text(2000).nullable(),
    })
    .noUnknown(),
};

export const blanks: Record<Kind, Record<string, unknown>> = {
  projects: { customer: null },
  tasks: {
    title: 'Task',
    project_id: null,
    starts_on: null,
    due_on: null,
    assignee: null,
    labels: [],
    state: 0,
    details: null,
    rule: null,
    series: null,
  },
  entries: { task_id: null, person: null, begun: 0, minutes: 0, note: null },
};
