/** Reads frames of several takes for a contact sheet: some of their particles, as many as a small picture shows. */
import type { Look, OwnAttribute, PopulationFrame } from '@tangle/core'
import { coloursOf, frameChain, srgbBytes, type CachedFrame } from '@tangle/formats'

export interface SheetWanted {
  take: string
  address: string
  frame: number
  /** How its populations are coloured, by id. */
  looks: Record<string, { look: Look; attributes: OwnAttribute[] }>
}
export interface SheetPoints {
  /** x, y, z in metres. */
  positions: Float32Array
  /** sRGB, 0 to 255. */
  colours: Uint8Array
}
export type SheetAnswer = { take: string; frame: number } & (
  (SheetPoints & { fault?: undefined }) | { fault: string }
)

/** Particles of a take that are shown, about. */
const MOST = 4000

const chains = new Map<string, (frame: number) => Promise<CachedFrame>>()

onmessage = async ({ data }: MessageEvent<SheetWanted>) => {
  const { take, address, frame, looks } = data
  try {
    const chain = chains.get(address) ?? frameChain((one) => bytesAt(`${address}/frames/${one}`))
    chains.set(address, chain)
    const points = pointsOf(await chain(frame), looks)
    const answer: SheetAnswer = { take, frame, ...points }
    ;(globalThis as unknown as Worker).postMessage(answer, [points.positions.buffer, points.colours.buffer])
  } catch (error) {
    postMessage({ take, frame, fault: (error as Error).message } satisfies SheetAnswer)
  }
}

async function bytesAt(address: string): Promise<Uint8Array> {
  const response = await fetch(address)
  if (!response.ok) throw new Error(`${address}: the server answers ${response.status}`)
  return new Uint8Array(await response.arrayBuffer())
}

/** The same particles in every frame: those whose id is a multiple. */
export function pointsOf({ populations }: CachedFrame, looks: SheetWanted['looks']): SheetPoints {
  const all = populations.reduce((sum, { count }) => sum + count, 0)
  const every = 2 ** Math.max(0, Math.ceil(Math.log2(all / MOST)))
  const shown = populations.map((one) => thinned(one, every))
  const count = shown.reduce((sum, one) => sum + one.count, 0)
  const positions = new Float32Array(count * 3)
  const colours = new Uint8Array(count * 3)
  let at = 0
  for (const one of shown) {
    const { look, attributes } = looks[one.id]!
    positions.set(one.columns.position!, at)
    colours.set(srgbBytes(coloursOf(look, one, attributes)), at)
    at += one.count * 3
  }
  return { positions, colours }
}

function thinned(population: PopulationFrame, every: number): PopulationFrame {
  const { id, count, columns } = population
  if (every === 1) return population
  const kept: number[] = []
  for (let i = 0; i < count; i++) if (columns.id![i]! % every === 0) kept.push(i)
  const some = Object.entries(columns as Record<string, Float32Array | Uint32Array>).map(([name, values]) => {
    const width = values.length / count
    const out = new (values.constructor as Float32ArrayConstructor)(kept.length * width)
    kept.forEach((i, k) => {
      for (let c = 0; c < width; c++) out[k * width + c] = values[i * width + c]!
    })
    return [name, out] as const
  })
  return { id, count: kept.length, columns: Object.fromEntries(some) }
}
