import { useThree } from "@react-three/fiber";
import { useEffect } from "react";

/** Tells when the graphics card has dropped everything, and draws again once it is back. */
export function LostContext({ onLost }: { onLost: (lost: boolean) => void }) {
  const canvas = useThree(({ gl }) => gl.domElement);
  const invalidate = useThree((three) => three.invalidate);
  useEffect(() => {
    const lost = () => onLost(true);
    const restored = () => {
      onLost(false);
      // all meshes are sent anew with the next picture
      invalidate();
    };
    canvas.addEventListener("webglcontextlost", lost);
    canvas.addEventListener("webglcontextrestored", restored);
    return () => {
      canvas.removeEventListener("webglcontextlost", lost);
      canvas.removeEventListener("webglcontextrestored", restored);
    };
  }, [canvas, invalidate, onLost]);
  return null;
}
