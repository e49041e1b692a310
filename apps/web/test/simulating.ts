/** The preview's own worker on this page: what it posts comes back as from a thread. Imported before the engine. */
import './browser.ts'

type Handler = (event: { data: unknown }) => void
const page = globalThis as unknown as {
  onmessage: Handler | null
  postMessage: (answer: unknown) => void
  Worker: unknown
  MessageChannel: unknown
}
Object.defineProperty(navigator, 'hardwareConcurrency', { value: 1, configurable: true })
page.MessageChannel = class {
  readonly port1: { onmessage: () => void } = { onmessage: () => undefined }
  readonly port2 = { postMessage: () => void setTimeout(() => this.port1.onmessage()) }
}

let inside: Handler
let outside: Simulator | undefined
class Simulator {
  onmessage: Handler = () => undefined
  constructor(readonly url: URL) {
    if (this.isSimulator) outside = this
  }
  private get isSimulator(): boolean {
    return this.url.href.includes('simulator.worker')
  }
  postMessage(data: unknown): void {
    if (this.isSimulator) setTimeout(() => outside === this && inside({ data }))
  }
  terminate(): void {
    if (outside === this) outside = undefined
  }
}
page.Worker = Simulator
page.postMessage = (data) => void setTimeout(() => outside?.onmessage({ data }))
await import('../../../packages/runtime/src/browser/simulator.worker.ts')
inside = page.onmessage!
page.onmessage = null
