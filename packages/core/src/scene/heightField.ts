import type { Machine } from '@tangle/kernels'
import { buildField, slackenField } from '../geometry/field.ts'
import { isClosed } from '../geometry/mesh.ts'
import { buildTree, freeTree, refitTree, type Tree } from '../geometry/tree.ts'
import type { Body } from './body.ts'

/** A body with heights added straight up; it is looked at anew after `raise`. */
export function heightFieldBody(machine: Machine, bare: Body, heights: Float32Array, first: number) {
  const { heap } = machine
  const bytes = heights.length * 12
  const kept = [0, 1].map(() => ({ frame: NaN, world: heap.allocate(bytes), turn: 0 }))
  let turns = 0
  let fitted: { frame: number; tree: Tree } | undefined
  let field = 0
  function momentAt(asked: number) {
    const frame = bare.moves ? asked : first
    const known = kept.find((one) => one.frame === frame)
    const moment = known ?? (kept[0]!.turn < kept[1]!.turn ? kept[0]! : kept[1]!)
    moment.turn = ++turns
    if (known) return moment
    moment.frame = frame
    const positions = bare.worldAt(frame)
    machine.run('raiseVertices', heights.length, {
      positions,
      heights: heights.byteOffset,
      out: moment.world,
    })
    return moment
  }
  /** Its branches are those of the bare ground at the first frame, wherever a computation is taken up. */
  const ownTree = () =>
    (fitted ??= {
      frame: NaN,
      tree: buildTree(machine, { positions: bare.worldView(first).slice(), triangles: bare.outward }),
    })
  const worldView = (frame: number) => heap.f32(momentAt(frame).world, heights.length * 3)
  const body: Body = {
    ...bare,
    worldAt: (frame) => momentAt(frame).world,
    worldView,
    treeAt(asked) {
      const { frame, world } = momentAt(asked)
      const kept = ownTree()
      if (kept.frame !== frame) refitTree(machine, kept.tree, world)
      kept.frame = frame
      return { tree: kept.tree, into: null }
    },
    fieldAt() {
      if (bare.moves) return 0
      if (field === 0) {
        const kept = ownTree()
        refitTree(machine, kept.tree, bare.worldAt(first))
        kept.frame = NaN
        field = buildField(machine, kept.tree, bare.worldView(first), isClosed(bare.facts))
        slacken()
      }
      return field
    },
  }
  /** It stands as much nearer as the cover is high. */
  let highest = 0
  const slacken = (): void => {
    if (field !== 0) slackenField(machine, field, highest)
  }
  return {
    body,
    /** To heights of which none is above `most` metres. */
    raise(most: number) {
      highest = most
      for (const one of kept) one.frame = NaN
      if (fitted) fitted.frame = NaN
      slacken()
    },
    dispose() {
      for (const one of kept) heap.free(one.world)
      if (field !== 0) heap.free(field)
      if (fitted) freeTree(heap, fitted.tree)
      bare.dispose()
    },
  }
}
