import type { CountStep } from '@monsoon/core/text';

/** Choices that the service checks and that pages offer; in a file of their own, without the checks. */

/** What a person is here, from the least to the most. */
export const roles = ['viewer', 'operator', 'administrator'] as const;
export type Role = (typeof roles)[number];

/** How much of what its person may a token may: look, also run, pause and settle, or everything. */
export const scopes = ['read', 'operate', 'write'] as const;
export type TokenScope = (typeof scopes)[number];

/** What people and programs can be notified of. */
export const occasions = ['needs a person', 'lane stopped', 'credentials', 'allowance'] as const;
export type Occasion = (typeof occasions)[number];

/** What a person may do with a hosted calendar. */
export const hostedRights = ['nothing', 'busy only', 'read', 'read and write'] as const;
export type HostedRight = (typeof hostedRights)[number];

export const countSteps = ['day', 'week', 'month'] as const satisfies readonly CountStep[];

/** What a list of items can be put in order by. */
export const itemOrders = ['time', 'title', 'record', 'state', 'since'] as const;
export type ItemOrder = (typeof itemOrders)[number];

/** Prepared lanes for common needs. */
export const starterNames = [
  'activities',
  'due-tasks',
  'several-dates',
  'time-log',
  'absences',
  'calendar-to-table',
  'words-to-status',
  'feed-to-table',
  'table-to-calendar',
  'records-to-address',
] as const;
export type StarterName = (typeof starterNames)[number];
