/** A page for tests of components: layout where jsdom has none, a server that answers by route. */

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter, Route, Routes, useLocation } from "react-router";
import { afterEach } from "vitest";

/** As in a browser, addresses may be relative. */
class Absolute extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, window.location.href) : input, init);
  }
}

type Served = (request: Request) => Promise<Response>;
const nobody: Served = () => Promise.reject(new TypeError("Nobody answers."));
let server = nobody;
// the API's client keeps the first of each that it sees
globalThis.Request = Absolute;
globalThis.fetch = (request) => server(request as Request);

class Still implements ResizeObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}

globalThis.ResizeObserver = Still;
for (const side of ["offsetWidth", "offsetHeight", "clientWidth", "clientHeight"]) {
  Object.defineProperty(HTMLElement.prototype, side, { configurable: true, get: () => 400 });
}
Element.prototype.scrollIntoView = () => undefined;
HTMLElement.prototype.scrollTo = () => undefined;
Element.prototype.hasPointerCapture = () => false;

afterEach(() => {
  cleanup();
  fireEvent.pointerDown(window);
  server = nobody;
});

type Asked = { method: string; path: string; query: URLSearchParams; body: unknown };
type Answer = object | ((asked: Asked) => object | [status: number, body: object]);

/** Answer requests by "METHOD /path"; what was asked is kept. */
export function serve(routes: Record<string, Answer>): Asked[] {
  const asked: Asked[] = [];
  server = async (request) => {
    const { pathname, searchParams } = new URL(request.url);
    const text = await request.text();
    const one = {
      method: request.method,
      path: pathname,
      query: searchParams,
      body: text ? (JSON.parse(text) as unknown) : null,
    };
    asked.push(one);
    const found = routes[`${one.method} ${pathname}`];
    const answer = typeof found === "function" ? (found as (a: Asked) => unknown)(one) : found;
    const [status, body] =
      Array.isArray(answer) && typeof answer[0] === "number"
        ? (answer as [number, object])
        : [answer === undefined ? 404 : 200, answer ?? { detail: `No ${pathname} here.` }];
    return new Response(JSON.stringify(body), {
      status,
      headers: { "Content-Type": "application/json" },
    });
  };
  return asked;
}

function Where() {
  return <output data-testid="where">{useLocation().pathname}</output>;
}

/** Show something at a path, with all that surrounds it in the application. */
export function show(what: ReactNode, path = "/") {
  const queries = new QueryClient({
    defaultOptions: { queries: { retry: false, refetchInterval: false } },
  });
  const user = userEvent.setup();
  const shown = render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[path]}>
        <Routes>
          <Route path="*" element={what} />
          <Route path="/items/:id" element={what} />
        </Routes>
        <Where />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return { ...shown, user, queries };
}
