import type { Response } from '../document/types.ts'
import { repeated } from '../document/keys.ts'
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
  const { curve, repeat } = response
  if (repeat) {
    const values = heap.f32(source, count)
    for (let i = 0; i < count; i++) values[i] = repeated(values[i]!, curve[0]![0], curve.at(-1)![0], repeat)
  }
  writeCurve(heap, keys, response.curve)
  machine.run('respond', count, { source, keys, count: response.curve.length, amount })
  heap.free(source)
  heap.free(keys)
}
