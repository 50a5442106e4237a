import { customType } from 'drizzle-orm/pg-core';

/** A point in time, RFC 3339 in UTC on this side and timestamptz on the other. */
export const time = customType<{ data: string; driverData: string }>({
  dataType: () => 'timestamp with time zone',
  fromDriver: (value) => new Date(value).toISOString(),
});
