import { X } from 'lucide-react';
import { Dialog as Radix } from 'radix-ui';
import { type ReactNode, useRef } from 'react';

/** A dialog with a title, a body that scrolls, and its actions at the foot. */
export function Dialog({
  open,
  onClose,
  title,
  description,
  actions,
  children,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  description: string;
  actions?: ReactNode;
  children: ReactNode;
}) {
  const opener = useRef<HTMLElement | null>(null);
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Radix.Content
          onOpenAutoFocus={() => {
            opener.current = document.activeElement as HTMLElement | null;
          }}
          // Back to where the person was: dialogs here are opened by state, so Radix knows no trigger.
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            opener.current?.focus();
          }}
          className="fixed top-[8vh] z-50 left-1/2 flex max-h-[84vh] w-[min(56rem,94vw)] -translate-x-1/2 flex-col rounded-lg border border-line bg-card shadow-xl"
        >
          <div className="flex items-start justify-between gap-4 border-b border-line px-4 py-3">
            <div>
              <Radix.Title className="text-lg font-semibold">{title}</Radix.Title>
              <Radix.Description className="text-soft">{description}</Radix.Description>
            </div>
            <Radix.Close aria-label="Close" className="rounded p-1 hover:bg-sunk">
              <X size={18} aria-hidden />
            </Radix.Close>
          </div>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
          <section className="min-h-24 overflow-auto" tabIndex={0} aria-label={title}>
            {children}
          </section>
          {actions !== undefined && <div className="flex justify-end gap-2 border-t border-line px-4 py-3">{actions}</div>}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
