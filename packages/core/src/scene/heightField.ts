import type { Machine } from '@tangle/kernels'
import { buildField, slackenField } from '../geometry/field.ts'
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
    const raised = heap.f32(moment.world, heights.length * 3)
    raised.set(bare.worldView(frame))
    for (let v = 0; v < heights.length; v++) raised[v * 3 + 1] = raised[v * 3 + 1]! + heights[v]!
    return moment
  }
  const worldView = (frame: number) => heap.f32(momentAt(frame).world, heights.length * 3)
  const body: Body = {
    ...bare,
    worldAt: (frame) => momentAt(frame).world,
    worldView,
    treeAt(asked) {
      const { frame } = momentAt(asked)
      const { triangles } = bare.mesh
      // its branches are those of the bare ground at the first frame, wherever a computation is taken up
      fitted ??= {
        frame: NaN,
        tree: buildTree(machine, { positions: bare.worldView(first).slice(), triangles }),
      }
      if (fitted.frame !== frame) refitTree(machine, fitted.tree, momentAt(asked).world)
      fitted.frame = frame
      return { tree: fitted.tree, into: null }
    },
    fieldAt() {
      if (bare.moves) return 0
      if (field === 0) {
        const positions = bare.worldView(first).slice()
        const tree = buildTree(machine, { positions, triangles: bare.mesh.triangles })
        field = buildField(machine, tree, positions)
        freeTree(heap, tree)
        slacken()
      }
      return field
    },
  }
  /** It stands as much nearer as the cover is high. */
  const slacken = (): void => {
    if (field !== 0) slackenField(machine, field, heights.reduce((most, height) => Math.max(most, height), 0)) // prettier-ignore
  }
  return {
    body,
    raise() {
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
