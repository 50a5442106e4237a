/** Choices that the service checks and that pages offer; in a file of their own, without the checks. */

/** What a person is here, from the least to the most. */
export const roles = ['viewer', 'operator', 'administrator'] as const;
export type Role = (typeof roles)[number];

/** How much of what its person may a token may: look, also run, pause and settle, or everything. */
export const scopes = ['read', 'operate', 'write'] as const;
export type TokenScope = (typeof scopes)[number];

/** What people and programs can be told of. */
export const occasions = ['needs a person', 'lane stopped', 'credentials', 'allowance'] as const;
export type Occasion = (typeof occasions)[number];

export const countSteps = ['day', 'week', 'month'] as const;
export type CountStep = (typeof countSteps)[number];

/** What a list of items can be put in order by. */
export const itemOrders = ['time', 'title', 'record', 'state', 'since'] as const;
export type ItemOrder = (typeof itemOrders)[number];
