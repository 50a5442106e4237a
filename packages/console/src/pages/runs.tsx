import { PageHead } from '../parts/basics.tsx';
import { RunTable } from '../parts/run-table.tsx';

export const Runs = () => (
  <>
    <PageHead title="Runs" note="Every execution of a lane, newest first. A notice behind which nothing changed makes none." />
    <RunTable />
  </>
);
