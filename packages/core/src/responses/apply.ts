import type { Response } from '../document/types.ts'
import { curveBytes, writeCurve } from '../document/curves.ts'
import type { ResponseContext, ResponseKind } from './response.ts'

/** Multiplies an f32 per particle at `amount` by the curve of what the response reads. */
export function applyResponse(
  kinds: ResponseKind[],
  response: Response,
  context: ResponseContext,
  amount: number,
): void {
  const { machine, columns } = context
  const { heap } = machine
  const { count } = columns
  const source = heap.allocate(count * 4)
  const keys = heap.allocate(curveBytes(response.curve))
  // the schema knows no other kinds
  const kind = kinds.find(({ from }) => from === response.from)!
  kind.write(heap.f32(source, count), context, response, source)
  writeCurve(heap, keys, response.curve)
  machine.run('respond', count, { source, keys, count: response.curve.length, amount })
  heap.free(source)
  heap.free(keys)
}
