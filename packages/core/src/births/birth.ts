import type { Machine } from '@tangle/kernels'
import type { Mesh, MeshFacts } from '../geometry/mesh.ts'
import type { Tree } from '../geometry/tree.ts'
import type { Affine, Vector } from '../math/vector.ts'
import type { PointSource } from '../scene/points.ts'
import type { CutFaces } from '../scene/solidCut.ts'
import {
  amount,
  choice,
  direction,
  number,
  reference,
  type Parameters,
  type ValuesOf,
} from '../document/parameters.ts'

export type { Points, PointSource } from '../scene/points.ts'

/** What a birth knows of its mesh. Everything is in the mesh's own space, before its place. */
export interface BirthMesh {
  machine: Machine
  mesh: Mesh
  facts: MeshFacts
  /** Size of the place along the mesh's own axes; births and distances are even in world units. */
  scale: Vector
  tree(): Tree
  normals(): Float32Array
  /** Positions in world size, in the mesh's own frame. */
  sized(): Float32Array
  /** A mask at the vertices, at the moment for which points are prepared. */
  maskAt(mask: string): Float32Array
  seed: number
  /** What births of liquids ask: how the mesh stands in the world, what artists call it, and twice the mean radius of what is born, metres. */
  liquid?: { place: Affine; named: string; diameter: number }
  /** Faces that this mesh cuts into another at that moment; absent where it cuts none. */
  cut?(): CutFaces
}

/** One kind of birth: where particles come into being. One file per kind. */
export interface BirthKind<P extends Parameters = Parameters> {
  kind: string
  label: string
  glyph: string
  help: string
  source: string
  parameters: P
  /** What is born are pieces of a broken mesh. */
  makesPieces?: true
  /** They are born on the faces of a cut: their mesh is the one that cuts the mesh that they name. */
  onCut?: true
  /** Metres between those that it lays on a grid; undefined where it lays none. */
  gridSpacing?(values: ValuesOf<P>): number | undefined
  /** Its points are all the cells of a liquid: those of a preview are coarser, not fewer. */
  fills?: true
  /** m/s with which so many a second of a diameter come out of it; absent where speed is the artist's. */
  flow?(values: ValuesOf<P>, diameter: number, rate: number): number
  /** The points that a mesh offers; absent where they are born of particles (simulation/offspring.ts). */
  prepare?(values: ValuesOf<P>, mesh: BirthMesh): PointSource
}

export function birth<P extends Parameters>(kind: BirthKind<P>): BirthKind {
  return kind as unknown as BirthKind
}

/** What every birth has: on what, how many, into which phase, and how they set out. */
export const COMMON = {
  mesh: reference({ label: 'Mesh', help: 'Where they are born', to: 'mesh' }),
  into: reference({ label: 'Into', help: 'The phase they start in', to: 'phase' }),
  amount: amount({
    label: 'Amount',
    help: 'All at once at a frame, a rate per second, or as a mask sweeps over the surface',
    default: { rate: 10000 },
  }),
  aim: choice({
    label: 'Set out',
    help: 'Which way they go at first: off the surface, or a direction of its own',
    default: 'normal',
    options: { normal: 'normal', direction: 'direction' },
  }),
  direction: direction({
    label: 'Direction',
    help: 'Where they set out; the length does not matter',
    default: [0, 1, 0],
    when: { aim: 'direction' },
  }),
  cone: number({
    label: 'Spread',
    unit: '°',
    help: 'Half angle of the cone of directions: 0 straight, 180 all ways',
    default: 0,
    range: [0, 180],
    usual: [0, 90],
    step: 1,
  }),
  speed: number({
    label: 'Speed',
    unit: 'm/s',
    help: 'At birth',
    default: 0,
    range: [-1e4, 1e4],
    usual: [0, 5],
    step: 0.01,
    keyable: true,
  }),
  speedSpread: number({
    label: 'Speed varies',
    unit: '×',
    help: 'As a share: 0.2 is from 80 % to 120 %',
    default: 0,
    range: [0, 1],
    usual: [0, 1],
    step: 0.01,
  }),
  turned: choice({
    label: 'Turned',
    help: 'How they lie at birth, where they are drawn as discs or instances: which way the front looks',
    default: 'alike',
    options: { alike: 'all alike', random: 'at random', normal: 'off the surface', way: 'as they set out' },
  }),
  inherit: number({
    label: 'Inherit motion',
    unit: '×',
    help: 'How much of the velocity of the mesh they take along',
    default: 1,
    range: [-10, 10],
    usual: [0, 1],
    step: 0.01,
  }),
  offset: number({
    label: 'Offset',
    unit: 'm',
    help: 'Distance off the surface, along the normal',
    default: 0,
    range: [-1e3, 1e3],
    usual: [0, 0.1],
    step: 0.001,
  }),
}

/** A birth that can't be done as it is written; the message says what to change. */
export class BirthError extends Error {
  readonly code = 'birth'
}
