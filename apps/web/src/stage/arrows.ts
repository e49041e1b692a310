import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  type Camera,
} from 'three'

/** Of a dart, as a part of its length. */
const WIDTH = 0.22

/** Darts that lie along the directions of a combing: wide at the root, thin at the tip, turned to the camera. */
export function makeArrows(colour: string) {
  const material = new MeshBasicMaterial({
    color: new Color(colour),
    side: DoubleSide,
    // those that lie on the surface are drawn before it
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -4,
  })
  const object = new Mesh(new BufferGeometry(), material)
  object.frustumCulled = false
  object.visible = false
  return {
    object,
    /** Places and ways to the tips, 6 numbers each; null shows none. */
    show(arrows: Float32Array | null, camera: Camera): void {
      object.visible = arrows !== null
      if (!arrows) return
      const { x, y, z } = camera.position
      const corners = new Float32Array((arrows.length / 6) * 9)
      for (let k = 0; k < arrows.length / 6; k++) {
        const [px, py, pz, dx, dy, dz] = arrows.subarray(k * 6, k * 6 + 6) as unknown as number[] as [number, number, number, number, number, number] // prettier-ignore
        // across both the way and the line of sight
        const [vx, vy, vz] = [x - px, y - py, z - pz]
        const side = [dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx] as const
        const long = Math.hypot(...side)
        const half = long > 0 ? (WIDTH * Math.hypot(dx, dy, dz)) / 2 / long : 0
        const [sx, sy, sz] = [side[0] * half, side[1] * half, side[2] * half]
        corners.set([px + sx, py + sy, pz + sz, px - sx, py - sy, pz - sz, px + dx, py + dy, pz + dz], k * 9)
      }
      const known = object.geometry.getAttribute('position') as BufferAttribute | undefined
      if (known?.array.length === corners.length) {
        known.array.set(corners)
        known.needsUpdate = true
        return
      }
      object.geometry.dispose()
      object.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(corners, 3))
    },
  }
}
