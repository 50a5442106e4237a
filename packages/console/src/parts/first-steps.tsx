import type { SystemAnswer } from '@monsoon/contract';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { client } from '../data.ts';
import { Button, Card } from './basics.tsx';

/** An installation without lanes: what is to be done, in its order, with what is done already. */
export function FirstSteps() {
  const go = useNavigate();
  const systems = useQuery({ queryKey: ['systems'], queryFn: () => client.systems() });
  if (systems.data === undefined) return null;
  const named = (fits: (system: SystemAnswer) => boolean) =>
    systems.data.items
      .filter(fits)
      .map((s) => s.name)
      .join(', ');
  const isCalendar = (s: SystemAnswer) => s.offers.includes('calendars');
  const steps = [
    {
      what: 'Connect the program whose records belong on a calendar',
      how: 'a business application, a project tool, a database, a spreadsheet',
      // A calendar server keeps tasks too, and is not the program that is meant.
      done: named((s) => s.offers.includes('records') && !isCalendar(s)),
      label: 'Connect it',
      to: '/systems/new',
    },
    {
      what: 'Connect the calendar',
      how: 'a calendar server, or a feed to read from',
      done: named((s) => isCalendar(s) && s.kind !== 'hosted') || 'Monsoon keeps calendars itself; a calendar server can be connected too',
      label: 'Connect it',
      to: '/systems/new',
    },
    {
      what: 'Arrange a lane between them',
      how: 'what goes where, with a preview before anything is written',
      done: '',
      label: 'New lane',
      to: '/lanes/new',
    },
  ];
  const next = steps.findIndex((s) => s.done === '');
  return (
    <Card title="First steps">
      <ol>
        {steps.map((s, i) => (
          <li key={s.what} className="flex items-center gap-3 border-b border-line px-3 py-3 last:border-b-0">
            <span className={`w-5 text-center font-semibold ${i === next ? '' : 'text-soft'}`}>{i + 1}</span>
            <span className="grow">
              <span className={i === next ? 'font-semibold' : ''}>{s.what}</span>
              <span className="block text-soft">{s.done === '' ? s.how : `Done: ${s.done}`}</span>
            </span>
            {i === next && (
              <Button needs="administer" onClick={() => go(s.to)}>
                {s.label}
              </Button>
            )}
          </li>
        ))}
      </ol>
    </Card>
  );
}
