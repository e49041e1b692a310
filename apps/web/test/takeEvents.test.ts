/** @jest-environment jsdom */
import { jest } from '@jest/globals'
import { watchTakes } from '../src/store/takeEvents.ts'

class Events {
  static readonly CLOSED = 2
  static all: Events[] = []
  readyState = 0
  onmessage: (event: { data: string }) => void = () => undefined
  constructor(readonly address: string) {
    Events.all.push(this)
  }
  close(): void {
    this.readyState = Events.CLOSED
  }
}
const open = (): Events[] => Events.all.filter(({ readyState }) => readyState !== Events.CLOSED)
let hidden = false
const turn = (to: boolean): void => {
  hidden = to
  document.dispatchEvent(new Event('visibilitychange'))
}

beforeEach(() => {
  jest.useFakeTimers()
  Events.all = []
  hidden = false
  Object.assign(globalThis, { EventSource: Events })
  Object.defineProperty(document, 'hidden', { configurable: true, get: () => hidden })
})
afterEach(() => jest.useRealTimers())

test('a page that is seen listens, one that is not gives its connection back, and the end is the end', () => {
  const heard: unknown[] = []
  const stop = watchTakes('here', (takes) => heard.push(takes))
  expect(open().map(({ address }) => address)).toEqual(['/api/shots/here/takes/events'])
  open()[0]!.onmessage({ data: '[{"id":"a"}]' })
  expect(heard).toEqual([[{ id: 'a' }]])
  turn(true)
  expect(open()).toHaveLength(0)
  jest.advanceTimersByTime(20_000)
  expect(open()).toHaveLength(0)
  turn(false)
  expect(open()).toHaveLength(1)
  stop()
  turn(true)
  turn(false)
  jest.advanceTimersByTime(20_000)
  expect(open()).toHaveLength(0)
})

test('one that the server has refused is opened again', () => {
  const stop = watchTakes('here', () => undefined)
  open()[0]!.close()
  jest.advanceTimersByTime(6000)
  expect(open()).toHaveLength(1)
  expect(Events.all).toHaveLength(2)
  stop()
})
