import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Clip } from "./clip";
import type { Skin } from "./skin";

/** What of the stencil's count a hatch is drawn for. */
type Layer = { func: THREE.StencilFunc; ref: number; look: number };

const INSIDE_OUT = 128;
/** Material once, twice or more (pieces that overlap), and less than nothing (inside out). */
const LAYERS: readonly Layer[] = [
  { func: THREE.EqualStencilFunc, ref: 1, look: 0 },
  { func: THREE.LessStencilFunc, ref: 1, look: 1 },
  { func: THREE.LessEqualStencilFunc, ref: INSIDE_OUT, look: 2 },
];

/** One hatch for each; the tints are those of the words beside them, see `HATCHES`. */
function hatch(look: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    uniforms: { look: { value: look } },
    vertexShader: /* glsl */ `
      void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }
    `,
    fragmentShader: /* glsl */ `
      uniform int look;
      float line(float across, float period) {
        float at = abs(fract(across / period) - 0.5) * period;
        return 1.0 - smoothstep(0.4, 1.1, at);
      }
      void main() {
        vec2 p = gl_FragCoord.xy;
        vec3 ground = vec3(1.0, 0.992, 0.969);
        vec3 ink = vec3(0.125, 0.157, 0.169);
        float drawn = line((p.x + p.y) * 0.7071, 9.0);
        if (look == 1) {
          ground = vec3(0.90, 0.76, 0.70);
          ink = vec3(0.61, 0.24, 0.13);
          drawn = max(drawn, line((p.x - p.y) * 0.7071, 9.0));
        } else if (look == 2) {
          ground = vec3(0.87, 0.81, 0.64);
          ink = vec3(0.36, 0.28, 0.04);
          drawn = 1.0 - smoothstep(1.2, 2.0, length(mod(p, 8.0) - 4.0));
        }
        gl_FragColor = vec4(mix(ground, ink, drawn * 0.75), 1.0);
      }
    `,
    stencilWrite: true,
    stencilRef: LAYERS[look]!.ref,
    stencilFunc: LAYERS[look]!.func,
    stencilZPass: THREE.KeepStencilOp,
    stencilFail: THREE.KeepStencilOp,
    stencilZFail: THREE.KeepStencilOp,
    // a later hatch is drawn over an earlier one
    depthFunc: THREE.LessEqualDepth,
  });
}

/** Counts faces that look away up and others down: what is left at a place is how often it is in. */
function counter(side: THREE.Side, op: THREE.StencilOp, clip: Clip): THREE.MeshBasicMaterial {
  return new THREE.MeshBasicMaterial({
    side,
    colorWrite: false,
    depthWrite: false,
    depthTest: false,
    stencilWrite: true,
    stencilFunc: THREE.AlwaysStencilFunc,
    stencilZPass: op,
    stencilFail: op,
    stencilZFail: op,
    clippingPlanes: clip.planes,
  });
}

type Props = { skin: Skin; geometry: THREE.BufferGeometry; clip: Clip };

/** The material that a cut lays open, hatched; voids stay open. */
export function CutFaces({ skin, geometry, clip }: Props) {
  const invalidate = useThree((state) => state.invalidate);
  const made = useMemo(() => {
    const counters = [
      counter(THREE.BackSide, THREE.IncrementWrapStencilOp, clip),
      counter(THREE.FrontSide, THREE.DecrementWrapStencilOp, clip),
    ];
    const size = skin.box.getSize(new THREE.Vector3()).length() * 1.2;
    const plane = new THREE.PlaneGeometry(size, size);
    const caps = LAYERS.map(({ look }, i) => {
      const cap = new THREE.Mesh(plane, hatch(look));
      cap.renderOrder = -8 + i;
      return cap;
    });
    // the count begins anew in the next picture
    caps.at(-1)!.onAfterRender = (renderer) => renderer.clearStencil();
    return { counters, caps, plane };
  }, [skin, clip]);
  useEffect(() => {
    const follow = () => {
      const { normal, constant } = clip.plane;
      const turn = new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), normal);
      for (const cap of made.caps) {
        cap.position.copy(normal).multiplyScalar(-constant);
        cap.quaternion.copy(turn);
      }
      invalidate();
    };
    follow();
    const stop = clip.follow(follow);
    return () => {
      stop();
      invalidate();
    };
  }, [made, clip, invalidate]);
  useEffect(
    () => () => {
      for (const one of made.counters) one.dispose();
      for (const cap of made.caps) cap.material.dispose();
      made.plane.dispose();
    },
    [made],
  );
  return (
    <>
      {made.counters.map((material) => (
        <mesh key={material.id} geometry={geometry} material={material} renderOrder={-9} />
      ))}
      {made.caps.map((cap) => (
        <primitive key={cap.id} object={cap} />
      ))}
    </>
  );
}
