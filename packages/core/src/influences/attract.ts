import { surfaceNear } from '../scene/surfaceProjection.ts'
import { choice, number, path, reference, vector } from '../document/parameters.ts'
import { influence, type Substep } from './influence.ts'

/** In the order of their codes in the kernel (assembly/steering.ts). */
const FALLOFFS = ['none', 'even', 'smooth', 'distance', 'square'] as const

/** A pull, or a push where the strength is negative, to a point, a mesh or a path. */
export const attract = influence({
  kind: 'attract',
  family: 'forces',
  label: 'Attract',
  glyph: '⊛',
  help: 'Pulls to a point, to the nearest place on a mesh, or to a path; a negative strength pushes away',
  pitfall:
    'They shoot through the point and out again: add drag, or a wider core. Nobody comes: they are beyond its reach.',
  source: 'Falling off with the square of the distance: Newton, Principia (1687)',
  radii: [
    { of: 'core', about: 'point' },
    { of: 'reach', about: 'point' },
  ],
  parameters: {
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      help: 'At its fullest; with 1/r and 1/r², at a distance of 1 m. Negative pushes away',
      default: 2,
      range: [-1e6, 1e6],
      usual: [-10, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    to: choice({
      label: 'To',
      help: 'What attracts',
      default: 'point',
      options: { point: 'a point', mesh: 'a mesh', path: 'a path' },
    }),
    point: vector({
      label: 'Point',
      unit: 'm',
      help: 'Where it is',
      default: [0, 1, 0],
      range: [-1e6, 1e6],
      usual: [-5, 5],
      step: 0.05,
      keyable: true,
      when: { to: 'point' },
    }),
    mesh: reference({
      label: 'Mesh',
      help: 'Its surface, which may move and ripple',
      to: 'mesh',
      absent: 'none',
      when: { to: 'mesh' },
    }),
    path: path({
      label: 'Path',
      help: 'Straight from point to point',
      default: [
        [0, 0, 0],
        [0, 2, 0],
      ],
      when: { to: 'path' },
    }),
    falloff: choice({
      label: 'Falls off',
      help: 'With the distance',
      default: 'smooth',
      options: {
        none: 'not at all',
        even: 'evenly to the reach',
        smooth: 'smoothly to the reach',
        distance: 'as 1/r',
        square: 'as 1/r²',
      },
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      help: 'Beyond it nothing is pulled, where it falls off evenly or smoothly',
      default: 3,
      range: [0.0001, 1e6],
      usual: [0.1, 10],
      step: 0.05,
      keyable: true,
    }),
    core: number({
      label: 'Core',
      unit: 'm',
      help: 'Nearer than this it gets weaker again, so that nothing shakes there',
      default: 0.05,
      range: [1e-6, 1e5],
      usual: [0.01, 1],
      step: 0.01,
    }),
  },
  applyForces(values, substep) {
    const { machine, columns, amount } = substep
    const { position, acceleration } = columns.at
    const pull = (points: number, stride: number): void =>
      machine.run('attractTo', columns.count, {
        amount,
        acceleration,
        position,
        point: points,
        stride,
        code: FALLOFFS.indexOf(values.falloff as 'none'),
        reach: values.reach,
        core: values.core,
      })
    if (values.to === 'mesh') return pullToMesh(values.mesh as string | undefined, substep, pull)
    if (values.to === 'path') return pullToPath(values.path, substep, pull)
    const point = machine.heap.allocate(12)
    machine.heap.f32(point, 3).set(values.point)
    pull(point, 0)
    machine.heap.free(point)
  },
})

type Pull = (points: number, stride: number) => void

function pullToMesh(mesh: string | undefined, { machine, columns, bodies, from }: Substep, pull: Pull): void {
  const body = mesh === undefined ? undefined : bodies.get(mesh)
  if (!body) return
  const near = surfaceNear(machine, body, from, columns.at.position, columns.count)
  pull(near.point, 3)
  near.free()
}

function pullToPath(points: number[][], { machine, columns }: Substep, pull: Pull): void {
  const { heap } = machine
  const way = heap.allocate(points.length * 12)
  const nearest = heap.allocate(columns.count * 12)
  heap.f32(way, points.length * 3).set(points.flat())
  machine.run('nearestOnPath', columns.count, {
    position: columns.at.position,
    path: way,
    count: points.length,
    out: nearest,
  })
  pull(nearest, 3)
  heap.free(way)
  heap.free(nearest)
}
