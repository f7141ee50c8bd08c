import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import type { Clip } from "./clip";
import type { Sight } from "./shells";
import type { Skin } from "./skin";
import { DepthLattice } from "./depth-lattice";
import { tintedBy } from "./depth-material";
import { BANDS, chartOf, DEPTHS, type Soundings } from "./soundings";

/** The skin as a chart of depths. */
export function Chart(props: {
  skin: Skin;
  soundings: Soundings;
  sight: Sight;
  limit: number;
  seeThrough: boolean;
  clip: Clip | null;
}) {
  const { skin, soundings, sight, limit, seeThrough, clip } = props;
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(() => tintedBy("depth", DEPTHS, BANDS, true), []);
  const lattice = useMemo(() => new DepthLattice(skin, soundings), [skin, soundings]);
  const geometry = useMemo(
    () => chartOf(skin, soundings, lattice, sight),
    [skin, soundings, lattice, sight],
  );
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  useEffect(() => {
    (material.userData as { unit: { value: number } }).unit.value = limit;
    material.transparent = seeThrough;
    material.opacity = seeThrough ? 0.4 : 1;
    material.depthWrite = !seeThrough;
    material.clippingPlanes = clip ? clip.planes : null;
    material.needsUpdate = true;
    invalidate();
  }, [material, limit, seeThrough, clip, invalidate]);
  return <mesh geometry={geometry} material={material} />;
}
