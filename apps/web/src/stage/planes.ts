/** Floors and walls that particles meet, as a square of lines about what stands there. */
import { INFLUENCES, valuesAt, type Shot, type Vector } from '@tangle/core'
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, Vector3 } from 'three'

const LINES = 12

export function makePlanes(colour: string) {
  const object = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: colour, transparent: true, opacity: 0.5, depthWrite: false }),
  )
  object.frustumCulled = false
  let drawn = ''
  return {
    object,
    /**
     * Draws the planes of a shot at a frame, about what stands there.
     * @param standing how many meshes stand there, and what says where and how far around, metres
     */
    show(shot: Shot, frame: number, standing: number, extent: () => { centre: Vector; reach: number }): void {
      const planes = planesOf(shot, frame)
      const key = JSON.stringify([planes, standing])
      if (key === drawn) return
      drawn = key
      const { centre, reach } = extent()
      const ends = planes.flatMap((plane) => squareOn(plane, new Vector3(...centre), 1.6 * reach))
      object.geometry.dispose()
      object.geometry.setAttribute('position', new BufferAttribute(new Float32Array(ends), 3))
    },
  }
}

export interface Plane {
  direction: Vector
  /** Of the plane along its direction, metres. */
  height: number
}

const PLANES = INFLUENCES.filter(({ isPlane }) => isPlane)

/** Of all that act at a frame, each once. */
export function planesOf({ populations }: Shot, frame: number): Plane[] {
  const all = populations
    .flatMap(({ influences }) => influences)
    .flatMap((one) => {
      const kind = PLANES.find(({ kind }) => kind === one.kind)
      if (!kind || one.muted || Object.values(one.weights).every((weight) => weight === 0)) return []
      const { direction, height } = valuesAt(kind.parameters, one, frame) as unknown as Plane
      return [{ direction, height }]
    })
  return [...new Map(all.map((plane) => [JSON.stringify(plane), plane])).values()]
}

/** Ends of the lines of a square that lies on a plane. */
function squareOn({ direction, height }: Plane, centre: Vector3, reach: number): number[] {
  const up = new Vector3(...direction).normalize()
  const side = new Vector3(Math.abs(up.x) < 0.9 ? 1 : 0, 0, Math.abs(up.x) < 0.9 ? 0 : 1)
    .cross(up)
    .normalize()
  const along = up.clone().cross(side)
  const middle = centre.clone().addScaledVector(up, height - centre.dot(up))
  const at = (u: number, v: number): number[] =>
    middle
      .clone()
      .addScaledVector(side, u * reach)
      .addScaledVector(along, v * reach)
      .toArray()
  return Array.from({ length: LINES + 1 }, (_, k) => (2 * k) / LINES - 1).flatMap((x) => [
    ...at(x, -1), ...at(x, 1), ...at(-1, x), ...at(1, x),
  ]) // prettier-ignore
}
