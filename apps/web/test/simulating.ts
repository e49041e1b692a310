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

/** The worker's own handler, and the page's worker that hears its answers now. */
const ends: { inside: Handler; outside: Simulator | null } = { inside: () => undefined, outside: null }
const hear = (worker: Simulator): void => void (ends.outside = worker)
class Simulator {
  onmessage: Handler = () => undefined
  constructor(readonly url: URL) {
    if (this.simulates) hear(this)
  }
  private get simulates(): boolean {
    return this.url.href.includes('simulator.worker')
  }
  postMessage(data: unknown): void {
    if (this.simulates) setTimeout(() => ends.outside === this && ends.inside({ data }))
  }
  terminate(): void {
    if (ends.outside === this) ends.outside = null
  }
}
page.Worker = Simulator
page.postMessage = (data) => void setTimeout(() => ends.outside?.onmessage({ data }))
await import('../../../packages/runtime/src/browser/simulator.worker.ts')
ends.inside = page.onmessage!
page.onmessage = null
