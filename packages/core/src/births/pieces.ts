import { pieceCount } from '../geometry/pieces.ts'
import { piecesAt } from '../scene/pieces.ts'
import { RIGID } from '../scene/points.ts'
import { birth, BirthError, COMMON } from './birth.ts'

const { mesh, into, amount, speed, speedSpread, aim, direction, cone, inherit } = COMMON

/** Each piece of a broken mesh is one particle: at its centre of mass, in place, as heavy as it is large. */
export const pieces = birth({
  kind: 'pieces',
  label: 'As pieces',
  glyph: '◰',
  help: 'Each piece of a broken mesh is one particle, in place; a burst of "all" gives every piece once',
  source: '',
  makesPieces: true,
  parameters: {
    mesh: { ...mesh, help: 'A broken mesh (Meshes: Break…)' },
    into,
    amount: { ...amount, default: { burst: 'all', at: 1 } },
    aim,
    direction,
    cone,
    speed,
    speedSpread,
    inherit,
  },
  prepare(_, { mesh: broken, scale }) {
    const offered = pieceCount(broken)
    if (offered === 0) throw new BirthError('Its mesh is not broken: break one in Meshes, and name it here')
    const all = piecesAt(broken, scale)
    return {
      offered,
      points(_ids, turns) {
        if (!turns)
          throw new BirthError('Pieces are born all at once: give a burst of "all" rather than a rate')
        const chosen = Array.from(turns, (turn) => all[turn]!)
        return {
          triangles: new Uint32Array(turns.length).fill(RIGID),
          weights: new Float32Array(turns.length * 2),
          // the place scales them again
          positions: Float32Array.from(
            chosen.flatMap(({ centre }) => centre.map((x, axis) => x / (scale[axis]! || 1))),
          ),
          normals: () => Float32Array.from(chosen.flatMap(({ centre }) => centre)),
          pieces: turns,
          radii: Float32Array.from(chosen, ({ radius }) => radius),
        }
      },
    }
  },
})
