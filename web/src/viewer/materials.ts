import * as THREE from "three";
import { TINTS } from "./skin";

const STRIPES = /* glsl */ `
  float stripe(float period) {
    return step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / period));
  }
`;

/** Putty first; the others keep its lightness, so that none stands out. */
const SHELL_TINTS = ["#cdbfa6", "#b3bda6", "#cbb09c", "#a9b9bf", "#c8b489", "#b9aab4"];

export const tintOf = (shell: number) => SHELL_TINTS[shell % TINTS]!;

/** Putty outside, or a muted tint for each shell; slate with stripes inside, so that a look through a hole cannot be mistaken. */
export function skinMaterial(): THREE.MeshLambertMaterial {
  const material = new THREE.MeshLambertMaterial({
    color: "#cdbfa6",
    flatShading: true,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  const marked = { value: 1 };
  const tinted = { value: 0 };
  const spread = { value: 0 };
  const tints = { value: SHELL_TINTS.map((tint) => new THREE.Color(tint)) };
  material.userData.insideMarked = marked;
  material.userData.tinted = tinted;
  material.userData.spread = spread;
  material.onBeforeCompile = (shader) => {
    shader.uniforms.insideMarked = marked;
    shader.uniforms.tinted = tinted;
    shader.uniforms.tints = tints;
    shader.uniforms.spread = spread;
    shader.vertexShader = shader.vertexShader
      .replace(
        "#include <common>",
        "#include <common>\nattribute float tint;\nattribute vec3 away;\nuniform float spread;\nvarying float vTint;",
      )
      .replace(
        "#include <begin_vertex>",
        "#include <begin_vertex>\nvTint = tint;\ntransformed += spread * away;",
      );
    shader.fragmentShader = shader.fragmentShader
      .replace(
        "#include <common>",
        `#include <common>
        uniform float insideMarked;
        uniform float tinted;
        uniform vec3 tints[${SHELL_TINTS.length}];
        varying float vTint;
        ${STRIPES}`,
      )
      .replace(
        "#include <color_fragment>",
        /* glsl */ `#include <color_fragment>
        if (tinted > 0.5) diffuseColor.rgb = tints[int(vTint + 0.5)];
        if (!gl_FrontFacing && insideMarked > 0.5) {
          diffuseColor.rgb = mix(vec3(0.20, 0.23, 0.26), vec3(0.42, 0.38, 0.42), stripe(9.0));
        }`,
      );
  };
  return material;
}

/** Chalk hatching over chosen triangles. */
export function hatchMaterial(opacity: number): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    transparent: true,
    depthWrite: false,
    clipping: true,
    uniforms: { opacity: { value: opacity } },
    vertexShader: /* glsl */ `
      #include <clipping_planes_pars_vertex>
      void main() {
        vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
        gl_Position = projectionMatrix * mvPosition;
        #include <clipping_planes_vertex>
      }
    `,
    fragmentShader: /* glsl */ `
      uniform float opacity;
      ${STRIPES}
      #include <clipping_planes_pars_fragment>
      void main() {
        #include <clipping_planes_fragment>
        if (stripe(7.0) < 0.5) discard;
        gl_FragColor = vec4(0.949, 0.937, 0.902, opacity);
      }
    `,
  });
}
