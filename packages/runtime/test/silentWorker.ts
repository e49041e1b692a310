import { packPopulation } from '../src/browser/packed.ts'

/** A worker of which the test sees every request and says every answer. */
class Silent {
  static last: Silent
  readonly asked: unknown[] = []
  ended = false
  onmessage: (event: { data: unknown }) => void = () => undefined
  onerror: (event: { message: string }) => void = () => undefined
  constructor() {
    Silent.last = this
  }
  postMessage(data: unknown): void {
    this.asked.push(data)
  }
  terminate(): void {
    this.ended = true
  }
  answer(data: unknown): void {
    this.onmessage({ data })
  }
}
Object.assign(globalThis, { Worker: Silent })
/** The last worker that was made. */
export const worker = (): Silent => Silent.last

/** What the stage draws of so many particles. */
export const packed = (count: number) =>
  packPopulation({
    id: 'dust',
    count,
    columns: {
      id: Uint32Array.from({ length: count }, (_, i) => i),
      phase: new Uint32Array(count),
      position: new Float32Array(count * 3),
      velocity: new Float32Array(count * 3),
      radius: new Float32Array(count),
    },
  })
