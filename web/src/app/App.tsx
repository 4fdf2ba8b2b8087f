import { lazy, Suspense } from 'react';
import { createBrowserRouter, Navigate, Outlet, RouterProvider, useRouteError } from 'react-router';
import { Rulebook } from '../screens/Rulebook';
import { Frame } from './Frame';
import { RequesterFrame } from './RequesterFrame';
import { SessionGate, useMay } from './session';
import { WorkshopProvider } from './workshop';

const RuleSheet = lazy(() => import('../screens/RuleSheet').then((m) => ({ default: m.RuleSheet })));
const Guards = lazy(() => import('../screens/Guards'));
const Mirrors = lazy(() => import('../screens/Mirrors'));
const Registers = lazy(() => import('../screens/registers/Registers'));
const Tickets = lazy(() => import('../screens/tickets/Tickets'));
const Ask = lazy(() => import('../screens/ask/Ask'));
const Runs = lazy(() => import('../screens/Runs'));
const Inbox = lazy(() => import('../screens/Inbox'));
const Reports = lazy(() => import('../screens/Reports'));
const Imports = lazy(() => import('../screens/registers/Imports'));
const Fields = lazy(() => import('../screens/fields/Fields'));
const Tables = lazy(() => import('../screens/Tables'));
const TableSheet = lazy(() => import('../screens/TableSheet'));
const Samples = lazy(() => import('../screens/Samples'));
const Findings = lazy(() => import('../screens/prove/Findings'));
const EditionDocument = lazy(() => import('../screens/release/EditionDocument'));
const SamplesBeside = lazy(() => import('../screens/prove/SamplesBeside'));
const Impact = lazy(() => import('../screens/prove/Impact'));
const Formulas = lazy(() => import('../screens/Formulas'));
const Editions = lazy(() => import('../screens/Editions'));

function Desk() {
  const builds = useMay('builder');
  const works = useMay('agent');
  if (!works) return <RequesterFrame />;
  const screen = (
    <Frame>
      <Suspense fallback={null}>
        <Outlet />
      </Suspense>
    </Frame>
  );
  return builds ? <WorkshopProvider>{screen}</WorkshopProvider> : screen;
}

function Home() {
  return <Navigate to={useMay('builder') ? '/rulebook' : '/tickets'} replace />;
}

function BuildersOnly() {
  return useMay('builder') ? (
    <Outlet />
  ) : (
    <main className="p-10">
      <h1>This screen is for builders.</h1>
      <p className="mt-2">It needs the role builder. An administrator can give it to you.</p>
    </main>
  );
}

function Broken() {
  const error = useRouteError();
  return (
    <main className="p-10">
      <h1>This screen failed.</h1>
      <p className="mt-2">
        {error instanceof Error ? error.message : 'It is not known why.'} What was saved is safe; reload the page to go
        on.
      </p>
      <button type="button" className="btn mt-4" onClick={() => window.location.reload()}>
        Reload
      </button>
    </main>
  );
}

const router = createBrowserRouter([
  {
    element: (
      <SessionGate>
        <Desk />
      </SessionGate>
    ),
    errorElement: <Broken />,
    children: [
      { path: '/', element: <Home /> },
      {
        element: <BuildersOnly />,
        children: [
          { path: '/rulebook', element: <Rulebook /> },
          { path: '/rulebook/:key', element: <RuleSheet /> },
          { path: '/guards', element: <Guards /> },
          { path: '/guards/:key', element: <Guards /> },
          { path: '/mirrors', element: <Mirrors /> },
          { path: '/mirrors/:key', element: <Mirrors /> },
          { path: '/fields', element: <Fields /> },
          { path: '/fields/:type', element: <Fields /> },
          { path: '/fields/:type/:field', element: <Fields /> },
          { path: '/imports', element: <Imports /> },
          { path: '/imports/:number', element: <Imports /> },
          { path: '/tables', element: <Tables /> },
          { path: '/tables/:key', element: <TableSheet /> },
          { path: '/samples', element: <Samples /> },
          { path: '/samples/:key', element: <Samples /> },
          { path: '/samples/:key/beside/:other', element: <SamplesBeside /> },
          { path: '/findings', element: <Findings /> },
          { path: '/findings/:tab', element: <Findings /> },
          { path: '/impact', element: <Impact /> },
          { path: '/impact/:number', element: <Impact /> },
          { path: '/formulas', element: <Formulas /> },
          { path: '/editions', element: <Editions /> },
          { path: '/editions/:number', element: <Editions /> },
          { path: '/editions/:number/document', element: <EditionDocument /> },
        ],
      },
      { path: '/registers', element: <Registers /> },
      { path: '/registers/:type', element: <Registers /> },
      { path: '/registers/:type/:id', element: <Registers /> },
      { path: '/runs', element: <Runs /> },
      { path: '/inbox', element: <Inbox /> },
      { path: '/reports', element: <Reports /> },
      { path: '/reports/:type', element: <Reports /> },
      { path: '/ask', element: <Ask /> },
      { path: '/ask/:id', element: <Ask /> },
      { path: '/tickets', element: <Tickets /> },
      { path: '/tickets/:id', element: <Tickets /> },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);

export function App() {
  return <RouterProvider router={router} />;
}
