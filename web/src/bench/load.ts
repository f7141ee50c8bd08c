import { api, type ItemLine, need } from "../api/client";
import { client } from "../api/queries";

/** The bench, which is a bundle of its own. */
export const loadBench = () => import("./screen");

/** Meshes up to so many triangles are asked for ahead: of larger ones two copies would be much. */
const MOST = 500_000;

/** Ask for what the bench will ask for, while it is still being put up. */
export function prepareBench({ id, current, triangles }: ItemLine): void {
  void loadBench();
  const asked = client.query({
    queryKey: ["item", id],
    queryFn: () => need(api.GET("/api/items/{id}", { params: { path: { id } } })),
  });
  // the bench asks itself, and says what is wrong
  asked.catch(() => undefined);
  if (current !== null && triangles !== null && triangles <= MOST) {
    // the browser keeps it; who asks next finds it there
    fetch(`/api/revisions/${current}/skin`)
      .then((answer) => answer.blob())
      .catch(() => undefined);
  }
}
