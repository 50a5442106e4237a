import { useQuery } from '@tanstack/react-query';
import { client, reasonOf } from '../data.ts';
import { Button, Empty, Failure } from './basics.tsx';
import { Dialog } from './dialog.tsx';
import { Impossible } from './impossible.tsx';
import { Operations } from './operations.tsx';

interface UndoProps {
  of: { run: string } | { entry: number };
  title: string;
  open: boolean;
  onClose: () => void;
  onConfirm: () => void;
}

/** What taking something back would do, and what cannot be taken back. */
export function UndoDialog({ of, title, open, onClose, onConfirm }: UndoProps) {
  const plan = useQuery({ queryKey: ['undo', of], queryFn: () => client.foreseeUndo(of), enabled: open, staleTime: 0, gcTime: 0 });
  const operations = plan.data?.operations ?? [];
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={title}
      description="Only what was not edited since is taken back; it stays so, and later runs leave it alone."
      actions={
        <>
          <Button onClick={onClose}>Close</Button>
          <Button danger needs="operate" onClick={onConfirm} disabled={operations.length === 0}>
            Take back {operations.length}
          </Button>
        </>
      }
    >
      {plan.isPending && <Empty>Looking at both sides...</Empty>}
      {plan.isError && <Failure>{reasonOf(plan.error)}</Failure>}
      {operations.length > 0 && <Operations lines={operations.slice(0, 300).map((o) => ({ ...o, key: `${o.recordId ?? o.href} ${o.moment}` }))} />}
      {plan.data !== undefined && operations.length === 0 && <Empty>Nothing can be taken back.</Empty>}
      <Impossible title="Cannot be taken back" items={plan.data?.impossible ?? []} />
    </Dialog>
  );
}
