/** The bonds of pieces as lines from centre to centre: those that hold by what they bear, broken ones while both ends are still about there. */
import {
  bondBits,
  massProperties,
  meshOfPiece,
  numberOfPiece,
  standing,
  vectorAt,
  type Mesh as CoreMesh,
  type MeshSource,
  type Shot,
} from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import { BufferAttribute, BufferGeometry, Color, LineBasicMaterial, LineSegments } from 'three'

export interface BondColours {
  /** Of a bond that bears nothing, of one that is about to break, and of a broken one. */
  calm: string
  strained: string
  broken: string
}

/** Ends farther apart than so many times the way between them in the mesh are drawn no more. */
const APART = 1.6

export function drawBonds(
  meshOf: (source: MeshSource) => { mesh: CoreMesh } | undefined,
  colours: BondColours,
) {
  const [calm, strained, broken] = [colours.calm, colours.strained, colours.broken].map(
    (one) => new Color(one),
  ) as [Color, Color, Color]
  const material = new LineBasicMaterial({
    vertexColors: true,
    transparent: true,
    opacity: 0.9,
    depthTest: false,
  })
  const object = new LineSegments(new BufferGeometry(), material)
  object.frustumCulled = false
  object.renderOrder = 2

  return {
    object,
    show(shot: Shot, population: PackedPopulation | undefined): void {
      object.visible = Boolean(population?.bonds && population.pieces)
      if (!object.visible) return
      const { positions, tones } = linesOf(shot, population!)
      object.geometry.dispose()
      object.geometry.setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3))
      object.geometry.setAttribute('color', new BufferAttribute(Float32Array.from(tones), 3))
    },
  }

  function linesOf(shot: Shot, { pieces, bonds, positions }: PackedPopulation) {
    const rows = new Map<number, number>()
    pieces!.forEach((piece, i) => rows.set(piece, i))
    const [ends, tones]: [number[], number[]] = [[], []]
    for (const n of new Set([...pieces!].filter((piece) => piece > 0).map(meshOfPiece))) {
      const shotMesh = shot.meshes[n]
      const mesh = shotMesh && meshOf(shotMesh.source)?.mesh
      if (!shotMesh || !mesh?.pieces) continue
      const masses = massProperties(mesh, vectorAt(standing(shot, shotMesh).place.scale, shot.frames.first))
      const ofMesh = new Map(
        [...rows]
          .filter(([piece]) => piece > 0 && meshOfPiece(piece) === n)
          .map(([piece, i]) => [numberOfPiece(piece), i]),
      )
      const bits = bondBits(mesh)
      const { pairs } = mesh.pieces.bonds
      bits.forEach((bit, k) => {
        const [a, b] = [pairs[k * 2]!, pairs[k * 2 + 1]!]
        const [i, j] = [ofMesh.get(a), ofMesh.get(b)]
        if (i === undefined || j === undefined) return
        const holds = (bonds!.holding[i]! >>> bit) & 1
        const [from, to] = [i, j].map((row) => [...positions.subarray(row * 3, row * 3 + 3)]) as [
          number[],
          number[],
        ]
        if (!holds && distance(from, to) > APART * distance(masses[a]!.centre, masses[b]!.centre)) return
        // a bond bears no more than the more burdened of its ends tells
        const load = Math.min(bonds!.stress[i]!, bonds!.stress[j]!)
        const tone = holds ? calm.clone().lerp(strained, load) : broken
        ends.push(...from, ...to)
        tones.push(tone.r, tone.g, tone.b, tone.r, tone.g, tone.b)
      })
    }
    return { positions: ends, tones }
  }
}

const distance = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!)
