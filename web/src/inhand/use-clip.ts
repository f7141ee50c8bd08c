import { useEffect, useMemo } from "react";
import { Clip } from "../viewer/clip";
import type { Skin } from "../viewer/skin";
import { useHand } from "./hand";

/** The plane that cuts one skin; it follows what is set without anything being rendered anew. */
export function useClip(skin: Skin | undefined): Clip | null {
  const cuts = useHand((hand) => hand.cut !== null);
  const clip = useMemo(() => {
    if (!skin || !cuts) return null;
    const made = new Clip(skin.middle);
    const { cut } = useHand.getState();
    if (cut) made.set(cut.plane);
    return made;
  }, [skin, cuts]);
  useEffect(() => {
    if (!clip) return undefined;
    return useHand.subscribe(({ cut }, before) => {
      if (cut && cut.plane !== before.cut?.plane) clip.set(cut.plane);
    });
  }, [clip]);
  return clip;
}
