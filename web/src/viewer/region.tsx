import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { cornersInSight, type Sight } from "./shells";
import type { Skin } from "./skin";

/** Most points that a region can be picked by. */
export const MOST_POINTS = 32;

/** Chalk hatching where the skin is within reach of one of the picked points. */
function regionMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    transparent: true,
    depthWrite: false,
    uniforms: {
      points: { value: Array.from({ length: MOST_POINTS }, () => new THREE.Vector3()) },
      count: { value: 0 },
      reach: { value: 1 },
    },
    vertexShader: /* glsl */ `
      varying vec3 vAt;
      void main() {
        vAt = position;
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
      }
    `,
    fragmentShader: /* glsl */ `
      uniform vec3 points[${MOST_POINTS}];
      uniform int count;
      uniform float reach;
      varying vec3 vAt;
      void main() {
        float away = 1e9;
        for (int i = 0; i < ${MOST_POINTS}; i++) {
          if (i < count) away = min(away, distance(vAt, points[i]));
        }
        if (away > reach) discard;
        bool rim = away > reach - 1.5 * fwidth(away);
        bool stripe = fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0) >= 0.5;
        if (!rim && !stripe) discard;
        gl_FragColor = vec4(0.949, 0.937, 0.902, rim ? 0.95 : 0.5);
      }
    `,
  });
}

/** The region picked on the skin. */
export function RegionHatch(props: {
  skin: Skin;
  sight: Sight;
  points: readonly (readonly number[])[];
  reach: number;
}) {
  const { skin, sight, points, reach } = props;
  const invalidate = useThree((state) => state.invalidate);
  const mesh = useMemo(() => {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", skin.geometry.getAttribute("position"));
    geometry.setIndex(new THREE.BufferAttribute(cornersInSight(skin, sight), 1));
    geometry.boundingSphere = skin.geometry.boundingSphere;
    const made = new THREE.Mesh(geometry, regionMaterial());
    made.renderOrder = 2;
    return made;
  }, [skin, sight]);
  useEffect(() => {
    const { uniforms } = mesh.material;
    points.slice(0, MOST_POINTS).forEach((point, i) => {
      const [x, y, z] = point as [number, number, number];
      (uniforms.points!.value as THREE.Vector3[])[i]!.set(x, y, z).sub(skin.middle);
    });
    uniforms.count!.value = Math.min(points.length, MOST_POINTS);
    uniforms.reach!.value = reach;
    invalidate();
  }, [mesh, skin, points, reach, invalidate]);
  useEffect(
    () => () => {
      mesh.geometry.dispose();
      mesh.material.dispose();
      invalidate();
    },
    [mesh, invalidate],
  );
  return <primitive object={mesh} />;
}
