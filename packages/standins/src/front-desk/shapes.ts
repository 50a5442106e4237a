import * as yup from 'yup';

export const kinds = ['contacts', 'venues', 'visits', 'calls', 'contracts'] as const;
export type Kind = (typeof kinds)[number];
/** What the ids of each kind begin with. */
export const prefixes: Record<Kind, string> = { contacts: 'C', venues: 'P', visits: 'V', calls: 'L', contracts: 'M' };

const text = (most: number) => yup.string().max(most);
const person = () => yup.object({ name: text(200), email: yup.string().email().max(200) }).noUnknown();
const localTime = () =>
  yup.string().matches(/^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d)?(Z|[+-]\d\d:\d\d)?$/, '${path} is a time such as 2026-12-15T12:00:00');

export const visitStatuses = ['provisional', 'booked', 'done', 'cancelled'];
export const visitKinds = ['tuning', 'first tuning', 'voicing', 'regulation', 'assessment'];

/** What can be written, by kind of record. */
export const shapes: Record<Kind, yup.ObjectSchema<yup.AnyObject>> = {
  contacts: yup.object({ name: text(200).required(), email: yup.string().email().max(200).nullable(), phone: text(50).nullable() }).noUnknown(),
  venues: yup.object({ name: text(200).required(), address: text(500).nullable() }).noUnknown(),
  visits: yup
    .object({
      customer_id: text(20).nullable(),
      instrument: text(200).nullable(),
      kind: yup.string().oneOf(visitKinds),
      start: localTime().nullable(),
      time_zone: text(60),
      length_minutes: yup.number().integer().min(0).max(100_000).nullable(),
      status: yup.string().oneOf(visitStatuses),
      technician: person().nullable().default(undefined),
      private: yup.boolean(),
      venue_id: text(20).nullable(),
      site: yup.string().oneOf(['Leeds', 'Halifax']),
      guests: yup.array(person().required()).max(2000),
      /** what the guests replied, as somebody wrote it down */
      replies: text(2000).nullable(),
      notes: text(20_000).nullable(),
    })
    .noUnknown(),
  calls: yup
    .object({
      customer_id: text(20).nullable(),
      subject: text(300),
      at: localTime().nullable(),
      time_zone: text(60),
      caller: person().nullable().default(undefined),
      done: yup.boolean(),
      notes: text(20_000).nullable(),
    })
    .noUnknown(),
  /** of maintenance: visits that come again by a rule (RFC 5545, 3.3.10), apart from some days */
  contracts: yup
    .object({
      customer_id: text(20).nullable(),
      instrument: text(200).nullable(),
      first: localTime().nullable(),
      time_zone: text(60),
      length_minutes: yup.number().integer().min(0).max(100_000).nullable(),
      rule: text(500).nullable(),
      skipped: text(2000).nullable(),
      state: yup.string().oneOf(['running', 'ended']),
      notes: text(20_000).nullable(),
    })
    .noUnknown(),
};

/** What a new record has where the writer says nothing. */
export const blanks: Record<Kind, Record<string, unknown>> = {
  contacts: { email: null, phone: null },
  venues: { address: null },
  visits: {
    customer_id: null,
    instrument: null,
    kind: 'tuning',
    start: null,
    time_zone: 'Europe/London',
    length_minutes: 90,
    status: 'booked',
    technician: null,
    private: false,
    venue_id: null,
    site: 'Leeds',
    guests: [],
    replies: null,
    notes: null,
  },
  calls: { customer_id: null, subject: 'Call', at: null, time_zone: 'Europe/London', caller: null, done: false, notes: null },
  contracts: {
    customer_id: null,
    instrument: null,
    first: null,
    time_zone: 'Europe/London',
    length_minutes: 60,
    rule: null,
    skipped: null,
    state: 'running',
    notes: null,
  },
};
