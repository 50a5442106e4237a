import type { AgendaItem } from '@monsoon/contract';

/** How a band is drawn: by form first, and by colour only where a person is needed. */
export interface Look {
  /** its outline, as SVG dashes; none: a whole line */
  dash: string;
  colour: string;
  wash: string;
  /** said on the band; nothing: it is as it should be */
  word: string;
}

const plain: Look = { dash: '', colour: 'var(--soft)', wash: 'var(--sunk)', word: '' };

/** What is not there yet. */
const soft = 'color-mix(in srgb, var(--sunk) 55%, transparent)';

export function lookOf(item: AgendaItem): Look {
  const { state } = item;
  if (state === 'held') return { dash: '7 4', colour: 'var(--held)', wash: 'var(--held-wash)', word: 'held' };
  if (state === 'failed') return { dash: '2 3', colour: 'var(--failed)', wash: 'var(--failed-wash)', word: 'failed' };
  if (state.includes('would be')) return { ...plain, dash: '4 3', wash: soft, word: state };
  if (state === 'would change') return { ...plain, dash: '4 3', wash: soft, word: isMoving(item) ? 'would move' : state };
  // A lane may be arranged so that both sides say it differently, such as a whole day and its working hours.
  if (state === 'in sync' || state === 'on the calendar') return plain;
  return { ...plain, dash: '1 3', wash: 'transparent', word: state };
}

/** Do both sides stand at different times? */
export const isMoving = ({ record, event }: AgendaItem): boolean =>
  record !== null && event !== null && (record.from !== event.from || record.until !== event.until);

export const bankWords = (item: AgendaItem): string => {
  const { record, event } = item;
  if (record !== null && event !== null) return isMoving(item) ? `record ${record.says}, event ${event.says}` : record.says;
  return record !== null
    ? `record ${record.says}, no event`
    : event === null
      ? ''
      : item.lane === null
        ? event.says
        : `event ${event.says}, no record`;
};

export const itemTo = (item: AgendaItem): string | null =>
  item.lane === null ? null : `/lanes/${item.lane}/items/${encodeURIComponent(item.recordId ?? item.href ?? '')}/${encodeURIComponent(item.moment)}`;
