import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { useSession } from "./api/queries";
import { OrdersScreen } from "./orders/screen";
import { Login } from "./session/login";
import { useOtherTabs } from "./session/tabs";
import { Notice } from "./ui/notice";

const BenchScreen = lazy(() => import("./bench/screen"));
const TrailScreen = lazy(() => import("./trail/screen"));
const MaterialsScreen = lazy(() => import("./materials/screen"));

export function App() {
  const session = useSession();
  useOtherTabs();
  if (session.isPending) return <Notice title="Opening the shop…" />;
  if (session.isError && !session.data) return <Notice title={session.error.message} />;
  const person = session.data.person;
  if (!person) return <Login />;
  return (
    <Suspense fallback={<Notice title="Opening…" />}>
      <Routes>
        <Route path="/" element={<OrdersScreen person={person} />} />
        <Route path="/items/:id" element={<BenchScreen person={person} />} />
        <Route path="/materials/:key?" element={<MaterialsScreen person={person} />} />
        <Route path="/trail" element={<TrailScreen person={person} />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </Suspense>
  );
}
