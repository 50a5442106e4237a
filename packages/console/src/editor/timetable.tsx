import { Link } from 'react-router';
import { Card } from '../parts/basics.tsx';
import { Count, Setting } from './controls.tsx';
import type { Editing } from './draft.ts';

export function Timetable({ lane, change, wrong, preview }: Editing) {
  return (
    <Card title="Timetable">
      <p className="px-3 pt-2">
        {preview === undefined ? (
          ''
        ) : preview.push ? (
          <>The records' system can tell its changes at once; the calendar is asked regularly.</>
        ) : (
          <>
            Neither side tells its changes by itself, so both are asked regularly.
            {lane.records?.system !== undefined && (
              <>
                {' '}
                Whether that can be changed is told at <Link to={`/systems/${lane.records.system}`}>the system</Link>.
              </>
            )}
          </>
        )}
      </p>
      <Setting label="Regular check" wrong={wrong('/checkEvery')} hint="Once a day both sides are read whole, whatever the system tells.">
        {(id) => (
          <span className="flex items-center gap-2">
            every <Count id={id} value={lane.checkEvery ?? 10} onChange={(checkEvery) => change((l) => ({ ...l, checkEvery }))} /> minutes
          </span>
        )}
      </Setting>
    </Card>
  );
}
