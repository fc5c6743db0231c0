/** The console: signing in, the frame around the rooms, and the rooms by address. */
import {
  MutationCache,
  QueryCache,
  QueryClient,
  QueryClientProvider,
  notifyManager,
  useQuery,
} from '@tanstack/react-query';
import { Tooltip } from 'radix-ui';
import { StrictMode, Suspense, lazy, useCallback, useEffect, useLayoutEffect, useState } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, NavLink, Navigate, Route, Routes, useLocation } from 'react-router';
import { ApiProblem } from '../client/index.js';
import { client, useAudit, useChannels, useDraft } from './api.js';
import { focusLeave } from './fields/leaving.js';
import { Boundary, CannotShow } from './parts/Boundary.js';
import { BrokenMark } from './parts/cases.js';
import { Counts, OF_THE_ECONOMY, sectionLink } from './parts/findings.js';
import { EditsProvider } from './parts/edits.js';
import type * as FindModule from './parts/Find.js';
import { SignIn, SignInAgain, isSignedOut } from './parts/SignIn.js';
import { Badge, Button, Waiting, Window } from './parts/ui.js';
import { Overview } from './rooms/Overview.js';
import './theme/tokens.css';

const ROOMS = [
  { path: 'overview', name: 'Overview', Room: Overview },
  { path: 'catalog', name: 'Catalog', Room: lazy(() => import('./rooms/Catalog.js')) },
  { path: 'loot', name: 'Loot', Room: lazy(() => import('./rooms/Loot.js')) },
  { path: 'shops', name: 'Shops', Room: lazy(() => import('./rooms/Shops.js')) },
  { path: 'check', name: 'Check', Room: lazy(() => import('./rooms/Check.js')) },
  { path: 'earning', name: 'Earning', Room: lazy(() => import('./rooms/Earning.js')) },
  { path: 'calendar', name: 'Calendar', Room: lazy(() => import('./rooms/Calendar.js')) },
  { path: 'simulate', name: 'Simulate', Room: lazy(() => import('./rooms/Simulate.js')) },
  { path: 'publish', name: 'Publish', Room: lazy(() => import('./rooms/Publish.js')) },
  { path: 'settings', name: 'Settings', Room: lazy(() => import('./rooms/Settings.js')) },
];

const Access = lazy(() => import('./rooms/Access.js'));

// What a key press changes is drawn before the next one, however slow the processor: else what is typed would go to
// what was shown before.
notifyManager.setScheduler(queueMicrotask);

// Heard before the router hears of it, which has the room drawn anew: on the way back a field keeps what is typed in it.
window.addEventListener('popstate', focusLeave);

/** The session is over while somebody works: whose it is, is asked anew. */
function onRefusal(error: Error): void {
  if (isSignedOut(error) && queries.getQueryData(SESSION)) void queries.invalidateQueries({ queryKey: SESSION });
}

const SESSION = ['session'];
const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: (error, { queryKey: [about] }) => about !== SESSION[0] && onRefusal(error) }),
  mutationCache: new MutationCache({ onError: onRefusal }),
  defaultOptions: {
    // The service may be on this machine, and what the desk works out is: a browser that finds itself offline asks both.
    mutations: { networkMode: 'always' },
    queries: {
      networkMode: 'always',
      retry: (count, error) => count < 2 && !(error instanceof ApiProblem),
      staleTime: 2000,
    },
  },
});

/** A link with `#token=...` signs in; the token leaves the address at once. */
async function whoIsHere() {
  const token = /^#token=(.+)$/.exec(window.location.hash)?.[1];
  if (token !== undefined) {
    window.history.replaceState(null, '', window.location.pathname + window.location.search);
    await client.call('POST /session', { body: { token } });
  }
  return client.call('GET /session');
}

function App() {
  const session = useQuery({ queryKey: SESSION, queryFn: whoIsHere, staleTime: Infinity });
  if (session.isPending) return <Waiting />;
  if (!session.data) {
    const isNew = isSignedOut(session.error) && window.location.hash === '';
    return <SignIn failed={isNew ? undefined : session.error} />;
  }
  return (
    <EditsProvider>
      <Frame name={session.data.name} mayAccess={session.data.role === 'admin'} />
      {isSignedOut(session.error) && <SignInAgain onClose={() => queries.setQueryData(SESSION, session.data)} />}
    </EditsProvider>
  );
}

/** The box that finds anything, and what opens it: Ctrl+K from everywhere. Apart, so that nothing else is drawn anew for it. */
function Finding() {
  const [open, setOpen] = useState(false);
  // Held here, not lazy: a part that suspends is shown a third of a second later, and what is typed meanwhile is lost.
  const [parts, setParts] = useState<typeof FindModule | null>(null);
  const [failed, setFailed] = useState<Error>();
  const load = useCallback(() => void import('./parts/Find.js').then(setParts, setFailed), []);
  useEffect(() => {
    if (open) load();
  }, [open, load]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', onKey);
    // Ready before it is asked for, once nothing else is to be done.
    const idle = window.requestIdleCallback(load, { timeout: 5000 });
    return () => {
      window.removeEventListener('keydown', onKey);
      window.cancelIdleCallback(idle);
    };
  }, [load]);
  return (
    <>
      <Button
        onClick={() => setOpen(true)}
        aria-label="Find anything"
        title="Find anything (Ctrl+K)"
        className="px-2 py-0"
      >
        ⌕
      </Button>
      {open && parts && <parts.default rooms={ROOMS} onClose={() => setOpen(false)} />}
      {failed && !parts && (
        <Window title="Find anything" open={open} onClose={() => setOpen(false)}>
          <CannotShow what="This" error={failed} />
        </Window>
      )}
    </>
  );
}

function useTheme(): [string, () => void] {
  const [theme, setTheme] = useState(
    () =>
      localStorage.getItem('theme') ?? (window.matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'),
  );
  useLayoutEffect(() => {
    document.documentElement.dataset['theme'] = theme;
  }, [theme]);
  const toggle = () => {
    const next = theme === 'dark' ? 'light' : 'dark';
    localStorage.setItem('theme', next);
    setTheme(next);
  };
  return [theme, toggle];
}

const MENU_ITEM = 'block w-full rounded-tag px-3 py-1 text-left font-semibold text-ink hover:bg-tint-copper';

const closePopover = (id: string): void => document.getElementById(id)?.hidePopover();

function Frame({ name, mayAccess }: { name: string; mayAccess: boolean }) {
  const [theme, toggleTheme] = useTheme();
  const draft = useDraft();
  const audit = useAudit();
  const live = useChannels().data?.items.find((channel) => channel.name === 'live');
  return (
    <div className="flex min-h-screen flex-col">
      <a href="#room" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2">
        Skip to the room
      </a>
      <header className="sticky top-0 z-30 bg-paper">
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 bg-sheet px-4 pt-2 pb-1.5">
          <span className="flex items-center gap-2 font-display text-xl font-semibold whitespace-nowrap">
            <img src="/coin.svg" alt="" className="size-6" />
            Dime Stall
          </span>
          <nav aria-label="Rooms" className="flex flex-wrap gap-0.5 max-lg:order-last max-lg:w-full">
            {ROOMS.map((room) => (
              <NavLink
                key={room.path}
                to={`/${room.path}`}
                className={({ isActive }) =>
                  `rounded-tag px-2 py-0.5 font-semibold max-[1380px]:px-1 ${isActive ? 'bg-copper text-on-copper' : 'text-ink hover:bg-sunk'}`
                }
              >
                {room.name}
              </NavLink>
            ))}
          </nav>
          <div className="ml-auto flex flex-wrap items-center justify-end gap-2 text-sm whitespace-nowrap">
            {draft.data && <span className="text-soft max-[1450px]:sr-only">{draft.data.document.name}</span>}
            {live ? <Badge tone="good">live: release {live.release}</Badge> : <Badge>nothing live</Badge>}
            {draft.data && <Badge>draft {draft.data.revision}</Badge>}
            {audit.data && <Counts counts={audit.data.counts} />}
            <BrokenMark />
            <Finding />
            <Button
              onClick={toggleTheme}
              aria-label={`Switch to ${theme === 'dark' ? 'light' : 'dark'} theme`}
              className="px-2 py-0"
            >
              {theme === 'dark' ? '☀' : '☾'}
            </Button>
            <Button className="max-w-28 truncate py-0" aria-label={`Signed in as ${name}`} popoverTarget="account">
              {name} ▾
            </Button>
            <div
              id="account"
              popover="auto"
              className="fixed inset-auto top-12 right-4 rounded-sheet border border-line bg-sheet p-1 shadow-sheet"
            >
              {mayAccess && (
                <NavLink to="/access" className={MENU_ITEM} onClick={() => closePopover('account')}>
                  Access
                </NavLink>
              )}
              <button
                type="button"
                className={MENU_ITEM}
                onClick={() => {
                  void client.call('DELETE /session').then(() => queries.resetQueries());
                }}
              >
                Sign out
              </button>
            </div>
          </div>
        </div>
        <div className="awning" aria-hidden />
      </header>
      <main id="room" className="mx-auto w-full max-w-[1720px] flex-1 px-5 py-3">
        <Boundary>
          <Suspense fallback={<Waiting />}>
            <Routes>
              {ROOMS.map(({ path, Room }) => (
                <Route key={path} path={`/${path}`} element={<Room />} />
              ))}
              <Route path="/economy" element={<OldEconomy />} />
              <Route path="/access" element={<Access />} />
              <Route path="*" element={<Navigate to="/overview" replace />} />
            </Routes>
          </Suspense>
        </Boundary>
      </main>
    </div>
  );
}

/** The room in which settings, and who plays, stood before. */
function OldEconomy() {
  const query = new URLSearchParams(useLocation().search);
  const section = OF_THE_ECONOMY.find((one) => one === query.get('section'));
  return <Navigate replace to={section ? sectionLink(section, query.get('open') ?? '') : '/settings'} />;
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <Tooltip.Provider>
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
