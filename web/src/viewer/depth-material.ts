import * as THREE from "three";

/**
 * A material whose tint tells a number of each vertex, in bands of a unit (`userData.unit`).
 *
 * `line` draws where the number equals the unit, as a contour on the surface.
 */
export function tintedBy(
  attribute: string,
  tints: readonly string[],
  bands: readonly number[],
  line = false,
): THREE.MeshLambertMaterial {
  const material = new THREE.MeshLambertMaterial({
    flatShading: true,
    // the tints are those of the legend
    toneMapped: false,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  const unit = { value: 1 };
  material.userData.unit = unit;
  const colours = { value: tints.map((tint) => new THREE.Color(tint)) };
  material.customProgramCacheKey = () => `${attribute} ${bands.join(" ")} ${line}`;
  material.onBeforeCompile = (shader) => {
    shader.uniforms.unit = unit;
    shader.uniforms.tints = colours;
    shader.vertexShader = shader.vertexShader
      .replace(
        "#include <common>",
        `#include <common>\nattribute float ${attribute};\nvarying float vNumber;`,
      )
      .replace("#include <begin_vertex>", `#include <begin_vertex>\nvNumber = ${attribute};`);
    shader.fragmentShader = shader.fragmentShader
      .replace(
        "#include <common>",
        `#include <common>
        uniform float unit;
        uniform vec3 tints[${tints.length}];
        varying float vNumber;`,
      )
      .replace(
        "#include <color_fragment>",
        /* glsl */ `#include <color_fragment>
        float share = vNumber / unit;
        vec3 tint = tints[0];
        ${bands.map((band, i) => `if (share >= ${band.toFixed(6)}) tint = tints[${i + 1}];`).join("\n")}
        ${line ? LINE : ""}
        diffuseColor.rgb = tint * 0.5;`,
      )
      // half of each tint glows, so that a number looks the same on every side and as in the legend
      .replace(
        "#include <emissivemap_fragment>",
        "#include <emissivemap_fragment>\ntotalEmissiveRadiance += diffuseColor.rgb;",
      );
  };
  return material;
}

const LINE = /* glsl */ `
  float steep = fwidth(vNumber);
  float line = 1.0 - smoothstep(0.7, 1.5, abs(vNumber - unit) / max(steep, 1e-6));
  // where the number jumps from sample to sample there is no line to draw
  line *= 1.0 - smoothstep(0.15, 0.4, steep / unit);
  tint = mix(tint, vec3(0.014), line);
`;
