import { number } from '../document/parameters.ts'
import { scale, writeVector } from '../math/vector.ts'
import { compose, conjugate } from '../math/quaternion.ts'
import type { Body } from '../scene/body.ts'
import { bends, homeTurn } from '../scene/piecePoses.ts'
import { rotationVector, turningOf } from '../scene/turning.ts'
import { floats, words } from '../state/columns.ts'
import { influence, type Substep } from './influence.ts'

/** Holds particles where they were born on their mesh while it moves and ripples. */
export const ride = influence({
  kind: 'ride',
  family: 'constraints',
  startsIn: 'first',
  label: 'Ride',
  glyph: '⚓',
  help: 'Keeps each at its place on the mesh, which may move and ripple; let go, it has the mesh’s velocity',
  pitfall:
    'They stay behind: they were not born on a mesh. It holds them wholly: weight it only in the phase in which they are held.',
  source: 'Position by barycentric weights in the triangle of birth',
  attributes: ['anchor', 'anchorAt'],
  pins: true,
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: '1 holds exactly; below, that share of the way is closed each 1/24 s',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    inherit: number({
      label: 'Inherit motion',
      unit: '×',
      help: 'How much of the mesh’s velocity they have when they are let go',
      default: 1,
      range: [-10, 10],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  projectPositions({ inherit }, substep) {
    const { machine, columns, amount, h } = substep
    const { anchor, position, velocity, travelled } = columns.at
    const { from, to } = substep.targets()
    machine.run('ride', columns.count, {
      anchor,
      amount,
      position,
      velocity,
      travelled,
      from,
      to,
      h,
      frames: h * 24,
      inherit,
    })
    if (columns.at.piece) turnWithMesh(substep, inherit)
  },
})

/** Pieces that are held wholly are turned as their mesh is, or where that does not keep its shape, as their part of it. */
function turnWithMesh({ machine, columns, amount, bodies, from, to, h }: Substep, inherit: number): void {
  const amounts = machine.heap.f32(amount, columns.count)
  const [piece, anchor] = [words(columns, 'piece'), words(columns, 'anchor')]
  const [orientation, spin] = [floats(columns, 'orientation'), floats(columns, 'angularVelocity')]
  const held = amounts.map((share, i) => (piece[i] !== 0 && share >= 1 ? anchor[i * 2]! : 0))
  for (const body of bodies.values()) {
    if (!held.includes(body.number)) continue
    const whole = bends(body) ? null : turningOf(body, from, to, (to - from) / h)
    held.forEach((number, i) => {
      if (number !== body.number) return
      const { turned, angularVelocity } = whole ?? turningOfPiece(body, piece[i]!, from, to, h)
      orientation.set(turned, i * 4)
      writeVector(spin, i, scale(angularVelocity, inherit))
    })
  }
}

function turningOfPiece(body: Body, piece: number, from: number, to: number, h: number) {
  const [before, turned] = [homeTurn(body, piece, from), homeTurn(body, piece, to)]
  return { turned, angularVelocity: scale(rotationVector(compose(turned, conjugate(before))), 1 / h) }
}
