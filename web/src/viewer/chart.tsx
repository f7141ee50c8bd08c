import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import type { Sight } from "./shells";
import type { Skin } from "./skin";
import { chartMaterial, chartOf, type Soundings } from "./soundings";

/** The skin as a chart of depths. */
export function Chart(props: {
  skin: Skin;
  soundings: Soundings;
  sight: Sight;
  limit: number;
  seeThrough: boolean;
}) {
  const { skin, soundings, sight, limit, seeThrough } = props;
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(chartMaterial, []);
  const geometry = useMemo(() => chartOf(skin, soundings, sight), [skin, soundings, sight]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  useEffect(() => {
    (material.userData as { limit: { value: number } }).limit.value = limit;
    material.transparent = seeThrough;
    material.opacity = seeThrough ? 0.4 : 1;
    material.depthWrite = !seeThrough;
    material.needsUpdate = true;
    invalidate();
  }, [material, limit, seeThrough, invalidate]);
  return <mesh geometry={geometry} material={material} />;
}
