import * as THREE from "three";

const STRIPES = /* glsl */ `
  float stripe(float period) {
    return step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / period));
  }
`;

/** Putty outside; slate with stripes inside, so that a look through a hole cannot be mistaken. */
export function skinMaterial(): THREE.MeshStandardMaterial {
  const material = new THREE.MeshStandardMaterial({
    color: "#cdbfa6",
    roughness: 0.85,
    metalness: 0,
    flatShading: true,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  const marked = { value: 1 };
  material.userData.insideMarked = marked;
  material.onBeforeCompile = (shader) => {
    shader.uniforms.insideMarked = marked;
    shader.fragmentShader = shader.fragmentShader
      .replace("#include <common>", `#include <common>\nuniform float insideMarked;\n${STRIPES}`)
      .replace(
        "#include <color_fragment>",
        /* glsl */ `#include <color_fragment>
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
    uniforms: { opacity: { value: opacity } },
    vertexShader: /* glsl */ `
      void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }
    `,
    fragmentShader: /* glsl */ `
      uniform float opacity;
      ${STRIPES}
      void main() {
        if (stripe(7.0) < 0.5) discard;
        gl_FragColor = vec4(0.949, 0.937, 0.902, opacity);
      }
    `,
  });
}
