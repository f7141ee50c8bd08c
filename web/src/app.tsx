import { lazy, Suspense, useState } from "react";
import { Navigate, Route, Routes } from "react-router";
import type { Person } from "./api/client";
import { useEvents } from "./api/connection";
import { useSession } from "./api/queries";
import { loadBench } from "./bench/load";
import { OrdersScreen } from "./orders/screen";
import { LogInAgain } from "./session/again";
import { ConnectionBanner } from "./session/connection-banner";
import { Login } from "./session/login";
import { WorkingPerson } from "./session/person";
import { useOtherTabs } from "./session/tabs";
import { Announcer } from "./ui/announcer";
import { Notice } from "./ui/notice";
import { Whole } from "./ui/whole";

const BenchScreen = lazy(loadBench);
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
