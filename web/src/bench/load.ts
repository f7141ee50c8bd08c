import type { ItemLine } from "../api/client";
import { client, itemQuery } from "../api/queries";

/** The bench, which is a bundle of its own. */
export const loadBench = () => import("./screen");

/** Meshes up to so many triangles are asked for ahead: who only rests on a row may not open it. */
const MOST = 500_000;

/** Have ready what the bench begins with: its code, and a worker for the mesh. */
export function expectBench(): void {
  void loadBench();
  void import("../viewer/load-skin").then(({ expectSkin }) => expectSkin());
}

/** Ask for what the bench will ask for, while it is still being put up. */
export function prepareBench({ id, current, triangles }: ItemLine): void {
  void loadBench();
  // the bench asks itself, and says what is wrong
  client.query(itemQuery(id)).catch(() => undefined);
  if (current !== null && triangles !== null && triangles <= MOST) {
    import("./use-mesh")
      .then(({ skinQuery }) => client.query(skinQuery(current)))
      .catch(() => undefined);
  }
}
