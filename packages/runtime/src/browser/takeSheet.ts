import type { SheetAnswer, SheetPoints, SheetWanted } from './sheet.worker.ts'

/** Several takes side by side: frame by frame some of the particles of each. */
export interface TakeSheet {
  /** What a take shows at a frame, if it is here; asks for it if it is not. */
  points(take: string, frame: number): SheetPoints | undefined
  /** Whether all takes have the frame; asks for those that do not. */
  has(frame: number): boolean
  /** Why a take can't be read. */
  faultOf(take: string): string | undefined
  subscribe(listener: () => void): () => void
  dispose(): void
}
export type SheetTake = Pick<SheetWanted, 'take' | 'address' | 'looks'>

export function createTakeSheet(takes: SheetTake[]): TakeSheet {
  const worker = new Worker(new URL('./sheet.worker.ts', import.meta.url), { type: 'module' })
  const frames = new Map<string, SheetPoints>()
  const asked = new Set<string>()
  const faults = new Map<string, string>()
  const listeners = new Set<() => void>()
  const key = (take: string, frame: number): string => `${take} ${frame}`

  worker.onmessage = ({ data }: MessageEvent<SheetAnswer>) => {
    const { take, frame } = data
    asked.delete(key(take, frame))
    if (data.fault === undefined)
      frames.set(key(take, frame), { positions: data.positions, colours: data.colours })
    else faults.set(take, data.fault)
    for (const listener of listeners) listener()
  }

  function points(take: string, frame: number): SheetPoints | undefined {
    const name = key(take, frame)
    const found = frames.get(name)
    if (!found && !asked.has(name) && !faults.has(take)) {
      asked.add(name)
      worker.postMessage({ ...takes.find((one) => one.take === take)!, frame } satisfies SheetWanted)
    }
    return found
  }

  return {
    points,
    has: (frame) => takes.map(({ take }) => points(take, frame) ?? faults.get(take)).every(Boolean),
    faultOf: (take) => faults.get(take),
    subscribe(listener) {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    dispose() {
      worker.terminate()
      listeners.clear()
    },
  }
}
