import type { BirthSample } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  LineBasicMaterial,
  LineSegments,
  Points,
  PointsMaterial,
} from 'three'

/** The points to be born, with short lines along which they set out. */
export function makeBirthPoints(colour: string) {
  const object = new Group()
  const points = new Points(
    new BufferGeometry(),
    new PointsMaterial({ color: new Color(colour), size: 2.4, sizeAttenuation: false }),
  )
  const lines = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: new Color(colour), transparent: true, opacity: 0.4 }),
  )
  points.frustumCulled = lines.frustumCulled = false
  object.add(points, lines)
  object.visible = false
  return {
    object,
    show(sample: BirthSample | null): void {
      object.visible = sample !== null && sample.positions.length > 0
      if (!object.visible || !sample) return
      points.geometry.dispose()
      points.geometry = new BufferGeometry().setAttribute(
        'position',
        new BufferAttribute(sample.positions, 3),
      )
      lines.geometry.dispose()
      const stride = Math.max(1, Math.floor(sample.positions.length / 3 / 1500))
      const ends: number[] = []
      for (let i = 0; i < sample.positions.length; i += 3 * stride) {
        for (let axis = 0; axis < 3; axis++) ends.push(sample.positions[i + axis]!)
        // a tenth of a second of flight
        for (let axis = 0; axis < 3; axis++)
          ends.push(sample.positions[i + axis]! + sample.normals[i + axis]! * 0.1)
      }
      lines.geometry = new BufferGeometry().setAttribute(
        'position',
        new BufferAttribute(new Float32Array(ends), 3),
      )
    },
  }
}
