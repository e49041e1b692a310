import {
  firstRows,
  ownId,
  toHalf,
  TOLD,
  vertexNormals,
  type EventTable,
  type GoalSample,
  type MeshFrame,
  type PopulationFrame,
} from '@tangle/core'
import type { CachedFrame } from '@tangle/formats'

/** What the stage draws of a population: 28 bytes a particle, 12 more with colours of its own, 8 with turns. */
export interface PackedPopulation {
  id: string
  count: number
  ids: Uint32Array
  /** x, y, z in metres. */
  positions: Float32Array
  /** Half floats: radius (m), age (share of the lifespan, or seconds), speed (m/s), travelled (m). */
  values: Uint16Array
  /** Phase, opacity (0–255), and two numbers of the direction a disc faces (octahedral, 0–255). */
  traits: Uint8Array
  /** Linear RGB, where particles have colours of their own. */
  colours: Float32Array | null
  /** Unit quaternions x, y, z, w, where particles have an orientation: −32767 to 32767. */
  turns: Int16Array | null
  /** Angular velocities, rad/s, where they turn. */
  spins: Float32Array | null
  /** Which piece of which broken mesh each is (core: scene/pieces.ts), where they are born as pieces. */
  pieces: Uint32Array | null
  /** Which bonds of each hold, a bit each (core: bondBits), and the highest share of what one bears, where there are bonds. */
  bonds: { holding: Uint32Array; stress: Float32Array } | null
  /** Ids of those that bore them, and the age of each, s, where they descend from others; of several populations also their numbers. */
  parents: { ids: Uint32Array; ages: Float32Array; populations: Uint32Array | null } | null
  /** Where some of them want to go; none in takes. */
  goals: GoalSample[]
  /** Attributes of the population's own, by id: so many numbers a particle. */
  own: Record<string, Float32Array>
  /** Numbers that rules tell of particles. */
  told: Partial<Record<(typeof TOLD)[number], Float32Array>>
  /** What happened in the frame: the first EVENTS_SHOWN of it; none in takes. */
  events: EventTable | null
}

/** Most events of a frame that go to the page; how many there were of each kind is counted all the same. */
export const EVENTS_SHOWN = 2000

/** Radius drawn of particles that keep none, metres. */
const SOME_RADIUS = 0.01

/** Copies a frame into buffers of its own, for drawing. */
export function packPopulation(
  { id, count, columns }: PopulationFrame,
  goals: GoalSample[] = [],
  events: EventTable | null = null,
): PackedPopulation {
  const positions = new Float32Array(count * 3)
  positions.set(columns.position!)
  const values = new Uint16Array(count * 4)
  const traits = new Uint8Array(count * 4)
  const { radius, age, lifespan, velocity, travelled, opacity, colour, orientation } = columns as Record<
    string,
    Float32Array
  >
  const phase = columns.phase
  for (let i = 0; i < count; i++) {
    const o = i * 3
    const life = lifespan?.[i] ?? Infinity
    const speed = velocity ? Math.sqrt(velocity[o]! ** 2 + velocity[o + 1]! ** 2 + velocity[o + 2]! ** 2) : 0
    values[i * 4] = toHalf(radius?.[i] ?? SOME_RADIUS)
    values[i * 4 + 1] = age ? toHalf(life === Infinity ? age[i]! : age[i]! / life) : 0
    values[i * 4 + 2] = toHalf(speed)
    values[i * 4 + 3] = travelled ? toHalf(travelled[i]!) : 0
    traits[i * 4] = phase?.[i] ?? 0
    traits[i * 4 + 1] = opacity ? Math.round(opacity[i]! * 255) : 255
    if (orientation) packFacing(orientation, i, traits)
    else traits[i * 4 + 2] = traits[i * 4 + 3] = 128
  }
  return {
    id,
    count,
    ids: Uint32Array.from(columns.id!),
    positions,
    values,
    traits,
    colours: colour ? colour.slice() : null,
    turns: orientation ? Int16Array.from(orientation, (x) => Math.round(x * 32767)) : null,
    spins: columns.angularVelocity ? Float32Array.from(columns.angularVelocity) : null,
    pieces: columns.piece ? Uint32Array.from(columns.piece) : null,
    bonds:
      columns.bonds && columns.stress
        ? { holding: Uint32Array.from(columns.bonds), stress: Float32Array.from(columns.stress) }
        : null,
    parents:
      columns.parent && age
        ? {
            ids: Uint32Array.from(columns.parent),
            ages: Float32Array.from(age),
            populations: columns.parentPopulation ? Uint32Array.from(columns.parentPopulation) : null,
          }
        : null,
    goals,
    own: Object.fromEntries(
      Object.entries(columns).flatMap(([name, values]) => {
        const own = ownId(name)
        return own !== null && values ? [[own, Float32Array.from(values)]] : []
      }),
    ),
    told: Object.fromEntries(
      TOLD.flatMap((name) => (columns[name] ? [[name, Float32Array.from(columns[name])]] : [])),
    ),
    events: events && firstRows(events, EVENTS_SHOWN),
  }
}

/** The arrays of a population that are handed over rather than copied. */
const arraysOf = (p: PackedPopulation): ArrayBufferView[] => [
  p.ids,
  p.positions,
  p.values,
  p.traits,
  ...(p.colours ? [p.colours] : []),
  ...(p.turns ? [p.turns] : []),
  ...(p.spins ? [p.spins] : []),
  ...(p.pieces ? [p.pieces] : []),
  ...(p.bonds ? [p.bonds.holding, p.bonds.stress] : []),
  ...(p.parents ? [p.parents.ids, p.parents.ages] : []),
  ...(p.parents?.populations ? [p.parents.populations] : []),
  ...p.goals.flatMap((goal) => [goal.ids, goal.places]),
  ...Object.values(p.own),
  ...Object.values(p.told),
  ...(p.events ? Object.values(p.events).filter(ArrayBuffer.isView) : []),
]

/** The z axis of a particle, folded onto an octahedron. Source: Cigolle et al., "A survey of efficient
 * representations for independent unit vectors" (2014). */
function packFacing(orientation: Float32Array, i: number, traits: Uint8Array): void {
  const [x, y, z, w] = [0, 1, 2, 3].map((k) => orientation[i * 4 + k]!) as [number, number, number, number]
  const n = [2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)]
  const sum = Math.abs(n[0]!) + Math.abs(n[1]!) + Math.abs(n[2]!)
  let [u, v] = [n[0]! / sum, n[1]! / sum]
  if (n[2]! < 0) [u, v] = [(1 - Math.abs(v)) * (u < 0 ? -1 : 1), (1 - Math.abs(u)) * (v < 0 ? -1 : 1)]
  traits[i * 4 + 2] = Math.round((u * 0.5 + 0.5) * 255)
  traits[i * 4 + 3] = Math.round((v * 0.5 + 0.5) * 255)
}

/** A mesh of a moment, for drawing. */
export interface PackedMesh extends MeshFrame {
  normals: Float32Array
  /** A mask at the vertices, and the same with one of its inputs off. */
  values?: Float32Array
  others?: Float32Array
}

export const packMesh = (mesh: MeshFrame): PackedMesh => ({
  ...mesh,
  normals: vertexNormals(mesh),
})

function copyOf({ id, inner, positions, triangles, velocities, columns = {} }: MeshFrame): MeshFrame {
  const copied = Object.entries(columns).map(([name, values]) => [name, values.slice()])
  return {
    id,
    positions: positions.slice(),
    triangles: triangles.slice(),
    ...(inner === undefined ? {} : { inner }),
    ...(velocities ? { velocities: velocities.slice() } : {}),
    ...(copied.length > 0 ? { columns: Object.fromEntries(copied) } : {}),
  }
}

/** A frame of a take in buffers of its own: what was decoded is needed for the frames after it. */
export const packFrame = ({ populations, meshes }: Pick<CachedFrame, 'populations' | 'meshes'>) => ({
  populations: populations.map((one) => packPopulation(one)),
  meshes: meshes.map((one) => packMesh(copyOf(one))),
})

export const packedBytes = (populations: PackedPopulation[]): number =>
  populations.flatMap(arraysOf).reduce((sum, array) => sum + array.byteLength, 0)

const arraysOfMesh = (m: MeshFrame & Partial<PackedMesh>): (Float32Array | Uint32Array)[] =>
  [m.positions, m.triangles, m.velocities, m.normals, m.values, m.others, ...Object.values(m.columns ?? {})].filter((array) => array !== undefined) // prettier-ignore

/** Bytes of meshes that go along with a frame. */
export const meshBytes = (meshes: MeshFrame[]): number =>
  meshes.flatMap(arraysOfMesh).reduce((sum, array) => sum + array.byteLength, 0)

/** The buffers of packed frames, to be handed over rather than copied. */
export function buffersOf(
  populations: PackedPopulation[],
  meshes: (MeshFrame & Partial<PackedMesh>)[] = [],
): ArrayBuffer[] {
  const arrays = [...populations.flatMap(arraysOf), ...meshes.flatMap(arraysOfMesh)]
  return [...new Set(arrays.map((array) => array.buffer as ArrayBuffer))]
}
