import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import { useLocation } from "react-router";
import { Button } from "./button";
import { Notice } from "./notice";

/** A screen that falls says so in its place; another address begins anew. */
export function Whole({ children }: { children: ReactNode }) {
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
