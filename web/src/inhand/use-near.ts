import { useEffect, useState } from "react";
import { loadNeighbours, type Neighbours } from "../viewer/neighbours";
import type { Skin } from "../viewer/skin";

/** The neighbours of a skin's faces, once something asks for them; null until they are there. */
export function useNear(skin: Skin | undefined, asked: boolean): Neighbours | null {
  const [known, setKnown] = useState<{ of: Skin; near: Neighbours } | null>(null);
  useEffect(() => {
    if (!skin || !asked) return undefined;
    let gone = false;
    void loadNeighbours(skin).then((near) => {
      if (!gone) setKnown({ of: skin, near });
    });
    return () => {
      gone = true;
    };
  }, [skin, asked]);
  return known && known.of === skin ? known.near : null;
}
