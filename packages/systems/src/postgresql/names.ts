import pg from 'pg';

export const quoted = pg.escapeIdentifier;

/** How our own sessions are named in the database: it tells our writes from those of others. */
export const OURSELVES = 'monsoon';
