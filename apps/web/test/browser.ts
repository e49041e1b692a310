/** What browsers have and this page has not: imported before anything that asks for it. */
import { deserialize, serialize } from 'node:v8'

class Observer {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
class Pointer extends MouseEvent {
  readonly pointerId: number
  constructor(type: string, more: PointerEventInit = {}) {
    super(type, more)
    this.pointerId = more.pointerId ?? 0
  }
}
/** Computes nothing. */
class Idle {
  postMessage(): void {}
  terminate(): void {}
}
Object.assign(globalThis, {
  Worker: Idle,
  structuredClone: (value: unknown) => deserialize(serialize(value)) as unknown,
  // nothing here asks a server
  fetch: () => Promise.reject(new Error('no server')),
  ResizeObserver: Observer,
  IntersectionObserver: Observer,
  PointerEvent: Pointer,
})
Object.assign(Element.prototype, {
  setPointerCapture(): void {},
  releasePointerCapture(): void {},
  scrollIntoView(): void {},
})
