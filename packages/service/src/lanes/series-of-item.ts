import type { ItemDetail } from '@monsoon/contract';
import { certain, formatWhen, parseInstant, placeOf, sayOriginalStart, toLocal, type When, type ZoneTable } from '@monsoon/core';
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
    return { item: certain(item, 'each item has a name'), moment, label, when: when == null ? '' : formatWhen(when) };
  });
  const ordinary = occurrences.find((o) => !o.isOverride)?.when;
  const zone = ordinary === undefined || ordinary.kind === 'all-day' ? null : ordinary.zone;
  return { says, occurrence: originalStart(id, zone, context.zones), others, overrides: [] };
}

/** When an occurrence was to be by the rule, on the clock of its series. */
function originalStart(id: string, zone: string | null, zones: ZoneTable): string {
  const known = zone === null || zone === 'UTC' ? undefined : zones.find(zone);
  if (known === undefined || !id.endsWith('Z')) return sayOriginalStart(id);
  const instant = parseInstant(id.replace(/^(....)(..)(..T..)(..)(..Z)$/, '$1-$2-$3:$4:$5'));
  return `${sayOriginalStart(toLocal(instant, known).replace(/[-:]/g, ''))} ${known.name}`;
}
