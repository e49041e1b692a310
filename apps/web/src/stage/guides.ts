/** What helps to set influences: where particles want to go, and the radii that the selected influence has. */
import { INFLUENCES, valuesAt, type Influence } from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  LineBasicMaterial,
  LineSegments,
  Points,
  PointsMaterial,
  type Camera,
} from 'three'
import type { Picked } from './picking.ts'

export interface Guided {
  /** The population that is open, and the influence of it that is selected. */
  population: string
  influence: Influence | undefined
  /** Draws goals and ways. */
  goals: boolean
  /** Draws the radii of the influence. */
  rings: boolean
}

/** At most so many ways and rings are drawn. */
const MOST_WAYS = 240
const MOST_RINGS = { particles: 24, goals: 6 }
const MOST_SPINS = 600
/** rad/s: who turns slower has no line; a turn a second. */
const SLOW = 0.05
const TURN = 2 * Math.PI
const SIDES = 40

type Vector = [number, number, number]

export function makeGuides(colour: string, wayColour: string) {
  const object = new Group()
  const ways = lines(wayColour, 0.35)
  const rings = lines(colour, 0.8)
  const places = new Points(
    new BufferGeometry(),
    new PointsMaterial({ color: new Color(wayColour), size: 3, sizeAttenuation: false, depthTest: false }),
  )
  places.frustumCulled = false
  object.add(ways, rings, places)

  return {
    object,
    show(
      guided: Guided | null,
      populations: PackedPopulation[],
      marked: Picked | null,
      camera: Camera,
      frame: number,
    ): void {
      const population = populations.find((one) => one.id === guided?.population)
      object.visible = guided !== null && population !== undefined
      if (!guided || !population) return
      ways.visible = places.visible = guided.goals
      if (guided.goals) {
        const { ends, points } = waysOf(population, marked)
        set(ways.geometry, ends)
        set(places.geometry, points)
      }
      rings.visible = guided.influence !== undefined
      if (guided.influence)
        set(rings.geometry, [
          ...(guided.rings ? ringsOf(population, guided.influence, camera, frame) : []),
          ...(guided.influence.kind === 'rigid' ? spinsOf(population) : []),
        ])
    },
  }
}

/** Ends of ways to goals, and the places that they lead to; of a marked particle its own only. */
function waysOf(population: PackedPopulation, marked: Picked | null): { ends: number[]; points: number[] } {
  const ends: number[] = []
  const points: number[] = []
  const place = new Map<number, number>()
  population.ids.forEach((id, i) => place.set(id, i))
  for (const { ids, places } of population.goals) {
    const own = marked?.population === population.id ? ids.indexOf(marked.id) : -1
    const stride = Math.max(1, Math.ceil(ids.length / MOST_WAYS))
    for (let k = 0; k < ids.length; k++) {
      if (own >= 0 ? k !== own : k % stride !== 0) continue
      const i = place.get(ids[k]!)
      if (i === undefined) continue
      const to = places.subarray(k * 3, k * 3 + 3)
      ends.push(...population.positions.subarray(i * 3, i * 3 + 3), ...to)
      points.push(...to)
    }
  }
  return { ends, points }
}

/** Ends of the lines that show an influence's radii, around its point, its goals or some particles. */
function ringsOf(
  population: PackedPopulation,
  influence: Influence,
  camera: Camera,
  frame: number,
): number[] {
  const kind = INFLUENCES.find((one) => one.kind === influence.kind)
  const values = kind ? (valuesAt(kind.parameters, influence, frame) as Record<string, unknown>) : {}
  const rings: number[] = []
  for (const { of, about } of kind?.radii ?? []) {
    const radius = values[of] as number
    if (about === 'point') {
      if (values.to === undefined || values.to === 'point')
        rings.push(...ringAround(values.point as Vector, radius, camera))
      continue
    }
    const goal = population.goals.find((one) => one.goal === influence.goal)
    const centres = about === 'particles' ? population.positions : (goal?.places ?? new Float32Array(0))
    const count = about === 'particles' ? population.count : centres.length / 3
    const stride = Math.max(1, Math.ceil(count / MOST_RINGS[about]))
    for (let i = 0; i < count; i += stride)
      rings.push(...ringAround(centres.subarray(i * 3, i * 3 + 3), radius, camera))
  }
  return rings
}

/** Ends of lines from the middles of bodies along the axes about which they turn, by the right hand: the faster, the longer. */
function spinsOf({ spins, positions, values, count }: PackedPopulation): number[] {
  const ends: number[] = []
  const stride = Math.max(1, Math.ceil(count / MOST_SPINS))
  for (let i = 0; spins && i < count; i += stride) {
    const [place, spin] = [positions, spins].map((of) => [...of.subarray(i * 3, i * 3 + 3)]) as [
      Vector,
      Vector,
    ]
    const speed = Math.hypot(...spin)
    if (speed < SLOW) continue
    const long = (fromHalf(values[i * 4]!) * Math.min(4, 1 + speed / TURN)) / speed
    ends.push(...place, ...place.map((x, axis) => x + spin[axis]! * long))
  }
  return ends
}

/** Ends of the sides of a circle that faces the camera. */
function ringAround(centre: ArrayLike<number>, radius: number, { matrixWorld }: Camera): number[] {
  const [right, up] = [0, 4].map((o) => matrixWorld.elements.slice(o, o + 3)) as [Vector, Vector]
  return Array.from({ length: SIDES * 2 }, (_, end) => {
    const angle = (((end >> 1) + (end & 1)) / SIDES) * 2 * Math.PI
    const [c, s] = [Math.cos(angle) * radius, Math.sin(angle) * radius]
    return [0, 1, 2].map((axis) => centre[axis]! + right[axis]! * c + up[axis]! * s)
  }).flat()
}

function lines(colour: string, opacity: number): LineSegments {
  const material = new LineBasicMaterial({
    color: new Color(colour),
    transparent: true,
    opacity,
    depthTest: false,
  })
  const made = new LineSegments(new BufferGeometry(), material)
  made.frustumCulled = false
  return made
}

function set(geometry: BufferGeometry, ends: number[]): void {
  geometry.dispose()
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(ends), 3))
}
