import { lazy, Suspense, useState, type ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import { Navigate, Route, Routes, useLocation } from "react-router";
import type { Person } from "./api/client";
import { useEvents } from "./api/connection";
import { useSession } from "./api/queries";
import { OrdersScreen } from "./orders/screen";
import { LogInAgain } from "./session/again";
import { ConnectionBanner } from "./session/connection-banner";
import { Login } from "./session/login";
import { WorkingPerson } from "./session/person";
import { useOtherTabs } from "./session/tabs";
import { Announcer } from "./ui/announcer";
import { Button } from "./ui/button";
import { Notice } from "./ui/notice";

const BenchScreen = lazy(() => import("./bench/screen"));
const TrailScreen = lazy(() => import("./trail/screen"));
const MaterialsScreen = lazy(() => import("./materials/screen"));
const PeopleScreen = lazy(() => import("./people/screen"));

export function App() {
  const session = useSession();
  useOtherTabs();
  // who works here; a session that ends by itself leaves the screen as it is
  const [working, setWorking] = useState<Person | null>(null);
  const person = session.data?.person ?? null;
  if (person && JSON.stringify(person) !== JSON.stringify(working)) setWorking(person);
  if (working && session.data?.left) setWorking(null);
  if (working) {
    return (
      <>
        <WorkingPerson value={person ?? working}>
          <Screens person={person ?? working} />
        </WorkingPerson>
        {session.data && !person && <LogInAgain person={working} />}
      </>
    );
  }
  if (session.isPending) return <Notice title="Opening the shop…" />;
  if (session.isError && !session.data) return <Notice title={session.error.message} />;
  return <Login />;
}

function Screens({ person }: { person: Person }) {
  useEvents();
  return (
    <div className="flex h-full flex-col">
      <ConnectionBanner />
      <div className="min-h-0 flex-1">
        <Whole>
          <Suspense fallback={<Notice title="Opening…" />}>
            <Routes>
              <Route path="/" element={<OrdersScreen person={person} />} />
              <Route path="/items/:id" element={<BenchScreen person={person} />} />
              <Route path="/materials/:key?" element={<MaterialsScreen person={person} />} />
              <Route path="/people" element={<PeopleScreen person={person} />} />
              <Route path="/trail" element={<TrailScreen person={person} />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </Suspense>
        </Whole>
      </div>
      <Announcer />
    </div>
  );
}

/** A screen that falls says so in its place; another address begins anew. */
function Whole({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return (
    <ErrorBoundary FallbackComponent={Fallen} resetKeys={[pathname]}>
      {children}
    </ErrorBoundary>
  );
}

function Fallen({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <Notice title="This screen stopped on a fault of ours.">
      <p>Nothing on the server was changed by it, and what you wrote is kept.</p>
      <p className="mt-2 text-small">{error instanceof Error ? error.message : String(error)}</p>
      <div className="mt-4 flex justify-center gap-2">
        <Button look="primary" onClick={resetErrorBoundary}>
          Try it again
        </Button>
        <Button onClick={() => window.location.assign("/")}>To the orders</Button>
      </div>
    </Notice>
  );
}
