import { formatWhen, type ItemDetail, placeOf, sayOriginalStart, type When } from '@monsoon/core';
import { and, eq, isNotNull, ne, sql } from 'drizzle-orm';
import type { App } from '../app.ts';
import type { OpenWork } from '../run/work.ts';
import { pairs } from '../storage/schema.ts';
import { saySeries } from './preview-series.ts';

/** Other occurrences that are named. */
const MOST_OTHERS = 60;

/** The series that an event belongs to, or is; null: it is a single event. @throws OutsideError */
export async function seriesOfItem(app: App, { context, sides, signal }: OpenWork, href: string): Promise<ItemDetail['series']> {
  const { object, id } = placeOf(href);
  const found = await sides.calendars.seriesAt(object, signal);
  if (found === null) return null;
  const { series, occurrences } = found;
  const says = saySeries(series.rules, occurrences);
  if (id === null) {
    const edited = occurrences.filter((o) => o.isOverride).map((o) => `${formatWhen(o.when)}${o.cancelled ? ' (cancelled)' : ''}`);
    return { says, occurrence: null, others: [], overrides: edited };
  }
  const rows = await app.db
    .select({ item: pairs.recordId, moment: pairs.moment, label: pairs.label, baseline: pairs.baseline })
    .from(pairs)
    .where(
      and(
        eq(pairs.lane, context.lane),
        isNotNull(pairs.recordId),
        ne(pairs.href, href),
        sql`strpos(${pairs.href}, '#') > 0 and split_part(${pairs.href}, '#', 1) = ${object}`,
      ),
    )
    .orderBy(pairs.href)
    .limit(MOST_OTHERS);
  const others = rows.map(({ item, moment, label, baseline }) => {
    const when = baseline?.event['when'] as When | null | undefined;
    return { item: item!, moment, label, when: when == null ? '' : formatWhen(when) };
  });
  return { says, occurrence: sayOriginalStart(id), others, overrides: [] };
}
