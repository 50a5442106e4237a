import { useQuery } from '@tanstack/react-query';
import { Menu } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { lazy, type ReactNode, Suspense, useState } from 'react';
import { BrowserRouter, Link, NavLink, Route, Routes, useLocation, useNavigate } from 'react-router';
import { client, isSignedOut, queries, reasonOf, useLive } from './data.ts';
import { Me } from './may.tsx';
import { FirstPassword } from './pages/first-password.tsx';
import { SignIn } from './pages/sign-in.tsx';
import { Today } from './pages/today.tsx';
import { Failure, PageHead, Reading } from './parts/basics.tsx';
import { PausedBar } from './parts/everything.tsx';
import { useTableLists } from './parts/table-lists.ts';
import { ThemeButton } from './parts/theme.tsx';

const Systems = lazy(() => import('./pages/systems.tsx').then((m) => ({ default: m.Systems })));
const System = lazy(() => import('./pages/system.tsx').then((m) => ({ default: m.System })));
const Connect = lazy(() => import('./pages/connect.tsx').then((m) => ({ default: m.Connect })));
const Lanes = lazy(() => import('./pages/lanes.tsx').then((m) => ({ default: m.Lanes })));
const NewLane = lazy(() => import('./pages/new-lane.tsx').then((m) => ({ default: m.NewLane })));
const DraftPage = lazy(() => import('./pages/draft.tsx').then((m) => ({ default: m.DraftPage })));
const Lane = lazy(() => import('./pages/lane.tsx').then((m) => ({ default: m.Lane })));
const Item = lazy(() => import('./pages/item.tsx').then((m) => ({ default: m.Item })));
const Runs = lazy(() => import('./pages/runs.tsx').then((m) => ({ default: m.Runs })));
const Run = lazy(() => import('./pages/run.tsx').then((m) => ({ default: m.Run })));
const CalendarPage = lazy(() => import('./pages/calendar.tsx').then((m) => ({ default: m.CalendarPage })));
const Feeds = lazy(() => import('./pages/feeds.tsx').then((m) => ({ default: m.Feeds })));
const Counts = lazy(() => import('./pages/counts.tsx').then((m) => ({ default: m.Counts })));
const People = lazy(() => import('./pages/people.tsx').then((m) => ({ default: m.People })));
const Activity = lazy(() => import('./pages/activity.tsx').then((m) => ({ default: m.Activity })));
const Holds = lazy(() => import('./pages/holds.tsx').then((m) => ({ default: m.Holds })));

export function App() {
  const me = useQuery({ queryKey: ['me'], queryFn: () => client.me(), retry: false, staleTime: 60_000 });
  if (me.isPending) return null;
  if (me.isError) return isSignedOut(me.error) ? <SignIn /> : <Failure>{reasonOf(me.error)}</Failure>;
  if (me.data.mustChangePassword)
    return (
      <Me.Provider value={me.data}>
        <FirstPassword />
      </Me.Provider>
    );
  return (
    <BrowserRouter>
      <Me.Provider value={me.data}>
        <Shell name={me.data.name}>
          <Suspense fallback={<Reading />}>
            <Routes>
              <Route path="/" element={<Today />} />
              <Route path="/systems" element={<Systems />} />
              <Route path="/systems/new" element={<Connect />} />
              <Route path="/systems/:system" element={<System />} />
              <Route path="/lanes" element={<Lanes />} />
              <Route path="/lanes/new" element={<NewLane />} />
              <Route path="/drafts/:draft" element={<DraftPage />} />
              <Route path="/lanes/:lane" element={<Lane />} />
              <Route path="/lanes/:lane/items/:record/:moment?" element={<Item />} />
              <Route path="/runs" element={<Runs />} />
              <Route path="/runs/:run" element={<Run />} />
              <Route path="/holds" element={<Holds />} />
              <Route path="/calendar" element={<CalendarPage />} />
              <Route path="/feeds" element={<Feeds />} />
              <Route path="/counts" element={<Counts />} />
              <Route path="/people" element={<People />} />
              <Route path="/activity" element={<Activity />} />
              <Route path="*" element={<PageHead title="There is no such page" note={<Link to="/">Go to Today</Link>} />} />
            </Routes>
          </Suspense>
        </Shell>
      </Me.Provider>
    </BrowserRouter>
  );
}

const places = [
  ['/', 'Today'],
  ['/systems', 'Systems'],
  ['/lanes', 'Lanes'],
  ['/calendar', 'Calendar'],
  ['/holds', 'Holds'],
  ['/runs', 'Runs'],
  ['/feeds', 'Feeds'],
  ['/counts', 'Counts'],
  ['/people', 'People'],
  ['/activity', 'Activity'],
] as const;

function Shell({ name, children }: { name: string; children: ReactNode }) {
  const live = useLive();
  useTableLists();
  // The menu opens inside the bar, so that everything on the page belongs to a landmark.
  const [bar, setBar] = useState<HTMLElement | null>(null);
  const signOut = async () => {
    await client.signOut();
    queries.clear();
    location.assign('/');
  };
  return (
    <div className="flex h-dvh flex-col">
      <a href="#page" className="sr-only focus:not-sr-only focus:absolute focus:bg-card focus:p-2">
        Skip to the page
      </a>
      <header ref={setBar} className="relative z-20 border-b border-line bg-card">
        <div className="mx-auto flex max-w-[84rem] items-center gap-3 px-3 py-2 lg:gap-6 lg:px-5">
          <Link to="/" className="flex items-center gap-2 text-lg font-semibold">
            <img src="/mark.svg" alt="" width="22" height="22" /> Monsoon
          </Link>
          <nav aria-label="Pages" className="hidden gap-1 lg:flex">
            {places.map(([to, label]) => (
              <NavLink
                key={to}
                to={to}
                end={to === '/'}
                className={({ isActive }) => `rounded px-2.5 py-1 font-medium ${isActive ? 'bg-sunk' : 'text-soft hover:bg-sunk hover:text-ink'}`}
              >
                {label}
              </NavLink>
            ))}
          </nav>
          <FoldedPlaces bar={bar} />
          <div className="ml-auto flex items-center gap-2">
            <span role="status" className={live ? 'sr-only' : 'rounded bg-failed-wash px-2 text-failed'}>
              {live ? 'Live' : 'The line to the service is down; trying again'}
            </span>
            <ThemeButton />
            <DropdownMenu.Root modal={false}>
              <DropdownMenu.Trigger className="rounded px-2.5 py-1 font-medium hover:bg-sunk">{name}</DropdownMenu.Trigger>
              <DropdownMenu.Portal container={bar}>
                <DropdownMenu.Content align="end" className="rounded border border-line bg-card p-1 shadow-lg">
                  <DropdownMenu.Item
                    onSelect={() => void signOut()}
                    className="cursor-default rounded px-3 py-1 outline-none data-[highlighted]:bg-sunk"
                  >
                    Sign out
                  </DropdownMenu.Item>
                </DropdownMenu.Content>
              </DropdownMenu.Portal>
            </DropdownMenu.Root>
          </div>
        </div>
      </header>
      <PausedBar />
      {/* The page scrolls below the bar, which so reaches from edge to edge. */}
      <div className="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]">
        <main id="page" className="mx-auto max-w-[84rem] px-3 py-4 lg:px-5 lg:py-5">
          {children}
        </main>
      </div>
    </div>
  );
}

/** The pages behind one button, where there is no room for all of them. */
function FoldedPlaces({ bar }: { bar: HTMLElement | null }) {
  const go = useNavigate();
  const here = useLocation().pathname;
  const name = places.find(([to]) => (to === '/' ? here === '/' : here.startsWith(to)))?.[1] ?? 'Pages';
  return (
    <nav aria-label="Pages" className="lg:hidden">
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger className="flex items-center gap-1.5 rounded border border-line px-2.5 py-1 font-medium hover:bg-sunk">
          <Menu size={16} aria-hidden /> {name}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal container={bar}>
          <DropdownMenu.Content align="start" className="rounded border border-line bg-card p-1 shadow-lg">
            {places.map(([to, label]) => (
              <DropdownMenu.Item
                key={to}
                onSelect={() => void go(to)}
                className="cursor-default rounded px-4 py-2 font-medium outline-none data-[highlighted]:bg-sunk"
              >
                {label}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </nav>
  );
}
