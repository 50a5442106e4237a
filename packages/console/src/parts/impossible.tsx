import type { UndoAnswer } from '@monsoon/contract';
import { sayItem } from '@monsoon/core/text';

/** What cannot be done, item by item, and why. */
export const Impossible = ({ title, items }: { title: string; items: UndoAnswer['impossible'] }) =>
  items.length === 0 ? null : (
    <section className="px-4 py-3">
      <h3 className="font-semibold">{title}</h3>
      <ul>
        {items.map((i) => (
          <li key={`${i.recordId ?? i.href} ${i.moment}`}>
            {sayItem(i)} {i.label}: <span className="text-soft">{i.reason}</span>
          </li>
        ))}
      </ul>
    </section>
  );
