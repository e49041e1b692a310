import type { Machine } from '@tangle/kernels'

/** Four numbers in (0, 1) per id (f64), draw `draw` of a stream. */
export function drawRandoms(
  machine: Machine,
  ids: Uint32Array,
  seed: number,
  stream: number,
  draw = 0,
): Float64Array {
  const { heap } = machine
  const input = heap.allocate(ids.byteLength)
  const output = heap.allocate(ids.length * 32)
  heap.u32(input, ids.length).set(ids)
  machine.run('drawRandoms', ids.length, { ids: input, seed, stream, draw, out: output })
  const out = heap.f64(output, ids.length * 4).slice()
  heap.free(input)
  heap.free(output)
  return out
}
