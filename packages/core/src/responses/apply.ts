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
  if (response.repeat) repeatOver(heap.f32(source, count), response)
  writeCurve(heap, keys, response.curve)
  machine.run('respond', count, { source, keys, count: response.curve.length, amount })
  heap.free(source)
  heap.free(keys)
}

/** Beyond the last point of a curve: from its first point on again, or back and forth between both. */
function repeatOver(values: Float32Array, { curve, repeat }: Response): void {
  const [first, last] = [curve[0]![0], curve.at(-1)![0]]
  const span = last - first
  if (span <= 0) return
  for (let i = 0; i < values.length; i++) {
    if (values[i]! <= last) continue
    const turns = (values[i]! - first) / span
    const part = turns - Math.floor(turns)
    const back = repeat === 'swing' && Math.floor(turns) % 2 === 1
    values[i] = first + span * (back ? 1 - part : part)
  }
}
