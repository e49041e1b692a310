import { FrontSide, MeshStandardMaterial } from 'three'

/** A liquid's skin: seen through from in front, a mirror of the sky along its rim (Schlick 1994, of water: 0.02). */
export function skinMaterial(): MeshStandardMaterial {
  const material = new MeshStandardMaterial({
    roughness: 0.08,
    transparent: true,
    opacity: 0.72,
    side: FrontSide,
  })
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      '#include <opaque_fragment>',
      `float facing = abs(dot(normalize(normal), normalize(vViewPosition)));
      float rim = 0.02 + 0.98 * pow(1.0 - facing, 5.0);
      outgoingLight = mix(outgoingLight, vec3(0.75, 0.85, 0.95), 0.6 * rim);
      diffuseColor.a = mix(diffuseColor.a, 1.0, rim);
      #include <opaque_fragment>`,
    )
  }
  return material
}
