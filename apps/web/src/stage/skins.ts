import type { Population } from '@tangle/core'
import { coloursOf } from '@tangle/formats'
import type { PackedMesh } from '@tangle/runtime/browser'
import { BufferAttribute, FrontSide, MeshStandardMaterial, type BufferGeometry } from 'three'

/** A liquid's skin: seen through from in front, a mirror of the sky along its rim (Schlick 1994, of water: 0.02). */
export function skinMaterial(): MeshStandardMaterial {
  const material = new MeshStandardMaterial({
    roughness: 0.08,
    transparent: true,
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

/** Gives a skin the colours of its particles, where its look says so. @returns whether it did */
export function colourSkin(
  geometry: BufferGeometry,
  mesh: PackedMesh,
  { look, attributes }: Population,
): boolean {
  if (look.skin?.colour !== 'look') return false
  const { id, positions, velocities, columns } = mesh
  const carried = { ...columns, ...(velocities ? { velocity: velocities } : {}) }
  const colours = coloursOf(look, { id, count: positions.length / 3, columns: carried }, attributes)
  geometry.setAttribute('color', new BufferAttribute(colours, 3))
  return true
}
