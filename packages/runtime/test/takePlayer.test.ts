import { createTakePlayer } from '../src/browser/takePlayer.ts'
import { packed, worker } from './silentWorker.ts'

describe('a take that is played', () => {
  const range = { first: 1, last: 40 }
  const player = (budget = 1e9) => createTakePlayer('/api/takes/x', range, budget, true)
  const asked = () => (worker().asked as { frame: number }[]).map((one) => one.frame)
  const come = (frame: number, count = 10) =>
    worker().answer({ frame, populations: [packed(count)], meshes: [] })

  test('asks for frames ahead of the playhead, a few at a time, never beyond the ends', () => {
    const take = player()
    expect(take.frame(1, 1)).toBeUndefined()
    expect(asked()).toEqual([1, 2, 3, 4])
    expect(worker().asked[0]).toEqual({ address: '/api/takes/x', frame: 1, mirror: 41 })
    come(1)
    expect(take.frame(1, 1)).toHaveLength(1)
    expect(asked()).toEqual([1, 2, 3, 4, 5])
    const back = player()
    back.frame(2, -1)
    expect(asked()).toEqual([2, 1])
    back.frame(40, 1)
    expect(asked()).toEqual([2, 1, 40])
  })

  test('what the server can’t give is told; other frames come all the same', () => {
    const take = player()
    let heard = 0
    take.subscribe(() => heard++)
    take.frame(5, 1)
    worker().answer({ frame: 5, fault: 'The server does not answer' })
    expect(take.fault).toBe('The server does not answer')
    come(6)
    expect([take.has(5), take.has(6), heard]).toEqual([false, true, 2])
  })

  test('frames that were decoded on the way are kept though nobody asked, each once', () => {
    const take = player()
    take.frame(9, 1)
    for (const frame of [2, 9, 2]) come(frame)
    expect([take.has(2), take.has(9), take.frame(2, 1), asked().includes(2)]).toMatchObject([
      true,
      true,
      [{}],
      false,
    ])
  })

  test('frames far from the playhead go when there is no more room', () => {
    const frameBytes = 10 * 100
    const take = player(frameBytes)
    for (let n = 1; n <= 40; n++) {
      take.frame(n, 1)
      come(n)
    }
    take.frame(40, 1)
    expect(take.has(1)).toBe(false)
    expect([38, 39, 40].every((frame) => take.has(frame))).toBe(true)
    expect(take.meshes(40)).toEqual([])
  })
})
