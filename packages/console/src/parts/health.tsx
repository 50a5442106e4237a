import type { SystemAnswer } from '@monsoon/contract';
import { Badge } from './basics.tsx';

/** How a system does, in a few words. What is well has no colour. */
export function Health({ system }: { system: SystemAnswer }) {
  if (system.lapsed !== null) return <Badge tone="failed">credentials lapsed</Badge>;
  if (system.consent === 'needed') return <Badge tone="held">to be authorised</Badge>;
  if (system.health.state === 'failing')
    return (
      <>
        <Badge tone="failed">failing</Badge> <span className="text-soft">{system.health.detail}</span>
      </>
    );
  return <>{system.health.state === 'unknown' ? 'not checked yet' : 'well'}</>;
}
