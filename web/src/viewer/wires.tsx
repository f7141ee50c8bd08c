import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Clip } from "./clip";
import { cornersInSight, type Sight } from "./shells";
import type { Skin } from "./skin";

/** Whose corner is the first, the second and the third: how far a point is from each side. */
const SIDES = [255, 0, 0, 0, 255, 0, 0, 0, 255];

/** Faces in sight, each with corners of its own that tell how far a point is from each side. */
export function wiresOf(skin: Skin, sight: Sight): THREE.BufferGeometry {
  const corners = cornersInSight(skin, sight);
  const points = new Float32Array(corners.length * 3);
  const sides = new Uint8Array(corners.length * 3);
  for (let c = 0; c < corners.length; c++) {
    const v = corners[c]! * 3;
    for (let k = 0; k < 3; k++) {
      points[c * 3 + k] = skin.positions[v + k]!;
      sides[c * 3 + k] = SIDES[(c % 3) * 3 + k]!;
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  geometry.setAttribute("sides", new THREE.BufferAttribute(sides, 3, true));
  geometry.boundingBox = skin.geometry.boundingBox;
  geometry.boundingSphere = skin.geometry.boundingSphere;
  return geometry;
}

/**
 * Lines along the sides of the triangles themselves, one pixel wide: what hides a triangle hides
 * its sides. Where triangles are hardly larger than a pixel the lines go over into a grey tone.
 */
function wireMaterial(): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    transparent: true,
    depthWrite: false,
    clipping: true,
    vertexShader: /* glsl */ `
      #include <clipping_planes_pars_vertex>
      attribute vec3 sides;
      varying vec3 vSides;
      void main() {
        vSides = sides;
        vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
        gl_Position = projectionMatrix * mvPosition;
        #include <clipping_planes_vertex>
      }
    `,
    fragmentShader: /* glsl */ `
      varying vec3 vSides;
      #include <clipping_planes_pars_fragment>
      void main() {
        #include <clipping_planes_fragment>
        vec3 pixel = fwidth(vSides);
        vec3 away = smoothstep(vec3(0.0), pixel * 1.1, vSides);
        float line = 0.7 * (1.0 - min(min(away.x, away.y), away.z));
        float dense = max(max(pixel.x, pixel.y), pixel.z);
        line = mix(line, 0.3, smoothstep(0.2, 0.6, dense));
        if (line < 0.02) discard;
        gl_FragColor = vec4(0.125, 0.157, 0.169, line);
      }
    `,
  });
}

/** The triangles in sight, drawn along their sides. */
export function Wires({ skin, sight, clip }: { skin: Skin; sight: Sight; clip: Clip | null }) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(wireMaterial, []);
  const geometry = useMemo(() => wiresOf(skin, sight), [skin, sight]);
  useEffect(() => {
    material.clippingPlanes = clip ? clip.planes : null;
    material.needsUpdate = true;
    invalidate();
  }, [material, clip, invalidate]);
  useEffect(() => () => material.dispose(), [material]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  return <mesh geometry={geometry} material={material} renderOrder={1} />;
}
