/** What browsers have and this page has not: imported before anything that asks for it. */
import { TextDecoder, TextEncoder } from 'node:util'
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
/** A request and its answer, as far as the interface reads them. */
class Asked {
  readonly headers = new Headers()
  constructor(
    readonly url: string,
    readonly init: RequestInit = {},
  ) {}
  get keepalive(): boolean {
    return this.init.keepalive === true
  }
  clone = (): Asked => new Asked(this.url, this.init)
  text = (): Promise<string> => Promise.resolve(String(this.init.body ?? ''))
}
class Answer {
  readonly status: number
  readonly headers: Headers
  constructor(
    readonly body: string,
    init: ResponseInit = {},
  ) {
    this.status = init.status ?? 200
    this.headers = new Headers(init.headers)
  }
  get ok(): boolean {
    return this.status < 400
  }
  clone = (): Answer => new Answer(this.body, { status: this.status, headers: this.headers })
  text = (): Promise<string> => Promise.resolve(this.body)
  json = (): Promise<unknown> => Promise.resolve(JSON.parse(this.body))
}
/** Computes nothing. */
class Idle {
  postMessage(): void {}
  terminate(): void {}
}
Object.assign(globalThis, {
  Worker: Idle,
  TextDecoder,
  TextEncoder,
  Request: Asked,
  Response: Answer,
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

// of every element jsdom asks every rule of every sheet, whenever a name is looked for; styles that are not their own hide nothing here
window.getComputedStyle = (element) => (element as HTMLElement).style
