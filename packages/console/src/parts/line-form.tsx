import type { ReactNode } from 'react';

/** A form in one line at the foot of a card: what is made here, said in a sentence. */
export const LineForm = ({ onSubmit, children }: { onSubmit: () => void; children: ReactNode }) => (
  <form
    className="flex flex-wrap items-end gap-2 border-t border-line px-3 py-2"
    onSubmit={(e) => {
      e.preventDefault();
      onSubmit();
    }}
  >
    {children}
  </form>
);
