import { randomUUID } from 'node:crypto';

/** The short name of a name: `Hall bookings` as `hall-bookings`, of at most 40 characters. @param otherwise where no letter or digit is left */
export const slugOf = (name: string, otherwise: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40) || otherwise;

/** A short name beside one that is taken. */
export const withSuffix = (slug: string): string => `${slug}-${randomUUID().slice(0, 6)}`;
