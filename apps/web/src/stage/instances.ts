import {
  chooseInstance,
  instanceMesh,
  instanceScale,
  instancesTooHeavy,
  linearColour,
  onRamp,
  rampTable,
  type Instances,
  type Look,
  type Mesh as CoreMesh,
  type MeshSource,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'
import type { LoadedMesh } from '../engine/library.ts'
import { dressInstances } from './meshLook.ts'
import { paintOf, takePaint } from './paint.ts'
import { rampValueOf, type Shades } from './shades.ts'
import {
  BufferAttribute,
  BufferGeometry,
  Group,
  InstancedBufferAttribute,
  InstancedMesh,
  Matrix4,
  MeshStandardMaterial,
  Quaternion,
  Vector3,
} from 'three'
import { fade, fadingShadow, shine } from './fading.ts'
import { toCreasedNormals } from 'three/addons/utils/BufferGeometryUtils.js'

/** Edges sharper than this (radians) stay edges in the shading. */
const CREASE = 0.6
/** How solid each is. */
const SOLID: [declared: string, solid: string] = ['attribute float solid;', 'solid']
/** Of the particle that is marked. */
const MARKED: [number, number, number] = [1, 0.55, 0.05]

/** What is shown of a population: its particles, how they look, and which part of them. */
export interface ShownParticles {
  shot: Shot
  population: PackedPopulation
  look: Look
  /** Id of the particle that is marked. */
  marked: number | null
  /** Colours by phase instead of by the look. */
  phases: string[] | null
  shades: Shades
  share: number
}
export const sameShown = (one: ShownParticles, other: ShownParticles | null): boolean =>
  other !== null && (Object.keys(one) as (keyof ShownParticles)[]).every((name) => one[name] === other[name])

/**
 * The particles of one population, each drawn as a mesh.
 * @param redraw is called when pictures of materials are there
 */
export function drawInstances(meshOf: (source: MeshSource) => LoadedMesh | undefined, redraw: () => void) {
  const object = new Group()
  let parts: InstancedMesh<BufferGeometry, MeshStandardMaterial>[] = []
  let made = ''
  let shown: ShownParticles | null = null
  let choose: (id: number) => number = () => 0

  function make(shot: Shot, population: string, instances: Instances, loaded: LoadedMesh[]): void {
    const shotMeshes = meshesOf(shot, instances)
    const key = JSON.stringify([shot.seed, population, instances, shotMeshes.map((m) => [m.source, m.place])])
    if (key === made) return
    made = key
    clear()
    choose = chooseInstance(shot, population, instances)
    parts = shotMeshes.map((shotMesh, n) => {
      const { mesh } = loaded[n]!
      const made = instanceMesh(mesh, shotMesh, instances, shot.frames.first)
      const part = new InstancedMesh(geometryOf(made, mesh.data?.colour), fadingMaterial(), 0)
      const paint = paintOf(loaded[n]!, redraw)
      // a mirrored one has its corners in another order
      if (paint && made.triangles === mesh.triangles) takePaint(part.geometry, part.material, paint)
      part.customDepthMaterial = fadingShadow(...SOLID)
      return part
    })
    object.add(...parts)
  }
  function clear(): void {
    for (const part of parts) {
      part.removeFromParent()
      part.geometry.dispose()
      part.dispose()
    }
    parts = []
  }

  return {
    object,
    /** Shows them; false where there are too many triangles to draw, or the meshes are not here yet. */
    show(asked: ShownParticles): boolean {
      const { shot, population, look, marked, share } = asked
      const { instances } = look
      object.visible = false
      if (!instances) return false
      const loaded = meshesOf(shot, instances).flatMap(({ source }) => meshOf(source) ?? [])
      const trianglesOf = (n: number): number => loaded[n]!.mesh.triangles.length / 3
      if (loaded.length < instances.set.length || instancesTooHeavy(instances, trianglesOf, population.count))
        return false
      object.visible = true
      if (sameShown(asked, shown)) return true
      shown = asked
      make(shot, population.id, instances, loaded)
      const members: number[][] = parts.map(() => [])
      population.ids.forEach((id, i) => {
        if (id === marked || (id * 0.75487767) % 1 < share) members[choose(id)]!.push(i)
      })
      const colourAt = colourOf(asked)
      parts.forEach((part, n) => fill(part, members[n]!, population, instances, colourAt))
      const isColoured = !isAsItsMesh(asked)
      meshesOf(shot, instances).forEach(({ look: own }, n) => dressInstances(parts[n]!, own, isColoured))
      for (const { material } of parts) shine(material, asked.phases ? 0 : (look.glow?.strength ?? 0))
      return true
    },
    dispose: clear,
  }
}

/** Places the particles of these numbers. */
function fill(
  part: InstancedMesh,
  members: number[],
  population: PackedPopulation,
  instances: Instances,
  colourAt: (i: number) => ArrayLike<number>,
): void {
  reserve(part, members.length)
  part.count = members.length
  const matrix = new Matrix4()
  const [place, turn, size] = [new Vector3(), new Quaternion(), new Vector3()]
  const solid = part.geometry.getAttribute('solid')
  members.forEach((i, k) => {
    place.fromArray(population.positions, i * 3)
    if (population.turns) turn.fromArray(population.turns, i * 4).normalize()
    size.setScalar(instanceScale(instances, fromHalf(population.values[i * 4]!)))
    part.setMatrixAt(k, matrix.compose(place, turn, size))
    part.instanceColor!.array.set(colourAt(i), k * 3)
    solid.array[k] = population.traits[i * 4 + 1]! / 255
  })
  for (const attribute of [part.instanceMatrix, part.instanceColor!, solid]) attribute.needsUpdate = true
}

const meshesOf = (shot: Shot, { set }: Instances): ShotMesh[] =>
  set.map(({ mesh }) => shot.meshes.find((one) => one.id === mesh)!)

/** Room for so many, with a colour and an opacity each. */
function reserve(part: InstancedMesh, count: number): void {
  if (part.instanceColor && part.instanceColor.count >= count) return
  const room = Math.ceil(count * 1.4) + 16
  part.dispose()
  part.instanceMatrix = new InstancedBufferAttribute(new Float32Array(room * 16), 16)
  part.instanceColor = new InstancedBufferAttribute(new Float32Array(room * 3), 3)
  part.geometry.setAttribute('solid', new InstancedBufferAttribute(new Float32Array(room), 1))
  part.frustumCulled = false
}

function geometryOf(
  { positions, triangles }: CoreMesh,
  colours?: { width: number; values: Float32Array },
): BufferGeometry {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setIndex(new BufferAttribute(triangles, 1))
  if (colours?.width === 3) geometry.setAttribute('color', new BufferAttribute(colours.values, 3))
  return toCreasedNormals(geometry, CREASE)
}

function fadingMaterial(): MeshStandardMaterial {
  const material = new MeshStandardMaterial({ roughness: 0.7 })
  fade(material, ...SOLID)
  return material
}

/** Whether nothing colours the particles, so that what is drawn of them has the colours of its mesh. */
export const isAsItsMesh = ({ phases, look, shades }: ShownParticles): boolean =>
  !phases && look.colour.from === 'own' && !shades.colours

/** Linear RGB of the i-th particle: that of the marked one, or by its phase, by its own colour or by the ramp of the look. */
export function colourOf(shown: ShownParticles): (i: number) => ArrayLike<number> {
  const { population, marked } = shown
  const unmarked = lookColourOf(shown)
  return (i) => (population.ids[i] === marked ? MARKED : unmarked(i))
}

function lookColourOf({
  population,
  look,
  phases,
  shades,
}: ShownParticles): (i: number) => ArrayLike<number> {
  const { colour } = look
  const { colours } = shades
  if (phases) {
    const tones = phases.map(linearColour)
    return (i) => tones[population.traits[i * 4]! % tones.length]!
  }
  if (colours) return (i) => colours.subarray(i * 3, i * 3 + 3)
  if (colour.from === 'own') return () => [1, 1, 1]
  const table = rampTable(colour.ramp)
  const valueOf = rampValueOf(population, look, shades)
  return (i) => {
    const entry = Math.round(onRamp(valueOf(i), colour.range) * 255) * 3
    return table.subarray(entry, entry + 3)
  }
}
