/** What is measured of meshes that others cut, and what it says. */
import { onCut } from '../births/cut.ts'
import { areaVector, meshFacts, perMesh, type Mesh } from '../geometry/mesh.ts'
import { windingNumbers } from '../geometry/tree.ts'
import { ON_LINE, ON_SQUARE, part } from '../math/even.ts'
import { add, length, scale, subtract, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import type { Shot } from '../document/types.ts'
import type { Body } from '../scene/body.ts'
import { solidCut, solidFault } from '../scene/solidCut.ts'
import type { World } from '../simulation/world.ts'
import type { Check } from './check.ts'

export interface CutMeasures {
  /** Of the mesh. */
  id: string
  /** m³: of the mesh, and of what is left of it. */
  volume: number
  left: number
  /** m²: of the faces of the cut. */
  area: number
  /** Why it stays whole, and of which mesh that is said. */
  fault: { of: string; says: string } | null
  /** Meshes that go through themselves, with the part of their surface that does, 0–1. */
  overlapping: { of: string; part: number }[]
}

export const measureCuts = ({ shot, bodies, machine }: World, frame: number): CutMeasures[] =>
  shot.meshes.flatMap(({ id, cut }) => {
    if (!cut) return []
    const [body, by] = [bodies.get(id)!, bodies.get(cut.by)!]
    const found = solidCut(body, by, cut, frame)
    const faults = [body, by].flatMap(({ mesh, shotMesh }) => {
      const says = solidFault(mesh)
      return says === null ? [] : [{ of: shotMesh.id, says }]
    })
    let area = 0
    for (let t = found?.inner ?? 0; found && t < found.triangles.length / 3; t++)
      area += length(areaVector(found, t)) / 2
    return [
      {
        id,
        volume: found?.volume ?? 0,
        left: found?.left ?? 0,
        area,
        fault: found ? null : (faults[0] ?? { of: id, says: 'its surface folds through itself here' }),
        overlapping: [body, by].flatMap((one) => {
          const { part } = overlapOf(one.mesh, () => selfOverlap(machine, one))
          return part > 0 ? [{ of: one.shotMesh.id, part }] : []
        }),
      },
    ]
  })

/** Places that are asked, and how far beside their triangles, as a part of the mesh's size. */
const ASKED = 600
const BESIDE = 1e-4

const overlaps = perMesh((): { part?: number } => ({}))
function overlapOf(mesh: Mesh, find: () => number): { part: number } {
  const known = overlaps(mesh)
  known.part ??= find()
  return { part: known.part }
}

/**
 * The part of a closed surface at rest that lies within itself or has more than one layer of it around: just outside of a triangle the
 * winding number is 0, just inside 1. Source: Barill et al., "Fast winding numbers for soups and clouds" (2018).
 */
function selfOverlap(machine: World['machine'], { mesh, restTree }: Body): number {
  const { openEdges, low, high } = meshFacts(mesh)
  const count = mesh.triangles.length / 3
  if (openEdges > 0 || count === 0) return 0
  const beside = BESIDE * length(high.map((x, k) => x - low[k]!) as Vector)
  const points = new Float32Array(ASKED * 6)
  for (let k = 0; k < ASKED; k++) {
    const t = Math.floor((k * count) / ASKED)
    const [a, b, c] = [0, 1, 2].map((n) => vectorOf(mesh.positions, mesh.triangles[t * 3 + n]!)) as [Vector, Vector, Vector] // prettier-ignore
    // places follow one another by the golden ratio
    const u = Math.sqrt(part(0.5 + k * ON_LINE))
    const v = u * part(0.5 + k * ON_SQUARE[0])
    const place = add(a, add(scale(subtract(b, a), u - v), scale(subtract(c, a), v)))
    const normal = unit(areaVector(mesh, t), [0, 0, 0])
    writeVector(points, k * 2, add(place, scale(normal, beside)))
    writeVector(points, k * 2 + 1, add(place, scale(normal, -beside)))
  }
  const windings = windingNumbers(machine, restTree(), points)
  let within = 0
  for (let k = 0; k < ASKED; k++) if (windings[k * 2]! > 0.5 || windings[k * 2 + 1]! > 1.5) within++
  return within / ASKED
}

/** What keeps meshes from being cut, or makes the cut wrong. */
export function* checkCuts({ meshes }: Shot, cuts: CutMeasures[] = []): Generator<Check> {
  const nameOf = (id: string): string => meshes.find((one) => one.id === id)?.name ?? id
  for (const { id, fault, overlapping } of cuts) {
    if (fault) {
      yield {
        id: `${id}:cut`,
        title: `${nameOf(id)} is not cut`,
        text: `${nameOf(fault.of)} is no solid: ${fault.says}. Close it, or make a shell of it and let that be cut.`,
      }
    }
    for (const { of, part } of overlapping) {
      yield {
        id: `${id}:overlap:${of}`,
        title: `${nameOf(of)} goes through itself`,
        text: `About ${Math.max(1, Math.round(part * 100))} % of its surface lies within it: the cut has walls in there. Join its parts to one surface, or make a shell of it.`,
      }
    }
  }
}

/** Births on the cut of a mesh that nothing cuts. */
export function* checkCutBirths({ meshes, populations }: Shot): Generator<Check> {
  for (const { id: population, name, births } of populations)
    for (const { id, kind, mesh } of births) {
      const named = meshes.find((one) => one.id === mesh)
      if (kind !== onCut.kind || !named || named.cut) continue
      yield {
        id: `${population}:${id}:uncut`,
        title: `${name} have no cut to be born on`,
        text: `Nothing cuts ${named.name}: choose what does in the Meshes step.`,
      }
    }
}
