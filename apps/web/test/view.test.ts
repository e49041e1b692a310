/** @jest-environment jsdom */
/** When the camera goes to a mesh, and that it is seen well then, from millimetres to hundreds of metres. */
import './browser.ts'
import { jest } from '@jest/globals'
import { Box3, Vector3 } from 'three'
import { createView } from '../src/stage/view.ts'

const boxAt = (x: number, y: number, z: number, size: number): Box3 =>
  new Box3().setFromCenterAndSize(new Vector3(x, y, z), new Vector3(size, size, size))

function viewFrom(position: [number, number, number], target: [number, number, number]) {
  const view = createView(
    document.createElement('canvas'),
    () => undefined,
    () => true,
  )
  view.setAspect(1.6)
  view.setCamera({ position, target, fieldOfView: 40 })
  return view
}

test.each<[string, Box3, boolean]>([
  ['a metre where one looks', boxAt(0, 1, 0, 1), true],
  ['beside it, still in the picture', boxAt(2, 1, 0, 1), true],
  ['ten metres around the camera', boxAt(2, 1, 4, 10), false],
  ['larger than the picture', boxAt(0, 1, 0, 12), false],
  ['a dot', boxAt(0, 1, 0, 0.02), false],
  ['beside the picture', boxAt(9, 1, 0, 1), false],
  ['above the picture', boxAt(0, 9, 0, 1), false],
  ['behind the camera', boxAt(0, 1, 16, 1), false],
])('from eight metres away: %s', (_, box, seen) => {
  expect(viewFrom([0, 1, 8], [0, 1, 0]).shows(box)).toBe(seen)
})

test.each([0.001, 0.05, 1, 50, 300])('what is %d m large is framed so that it is seen well', (size) => {
  const view = viewFrom([4, 3, 6], [0, 1, 0])
  const box = boxAt(3 * size, size, -2 * size, size)
  view.frame(box)
  expect(view.shows(box)).toBe(true)
  // what was framed before is a dot or far too large, unless it is of that size
  expect(view.shows(boxAt(3 * size, size, -2 * size, size * 50))).toBe(false)
  expect(view.shows(boxAt(3 * size, size, -2 * size, size / 100))).toBe(false)
  // nothing of it is cut off
  expect(view.camera.near).toBeLessThan(view.camera.position.distanceTo(box.getCenter(new Vector3())) - size)
})

describe('the way there', () => {
  /** Times at which the page is drawn, by hand. */
  let waiting: ((time: number) => void)[] = []
  let clock = 0
  beforeEach(() => {
    waiting = []
    clock = 0
    jest.spyOn(performance, 'now').mockImplementation(() => clock)
    globalThis.requestAnimationFrame = (step) => waiting.push(step)
    globalThis.cancelAnimationFrame = () => void (waiting = [])
  })
  afterEach(() => jest.restoreAllMocks())
  const after = (milliseconds: number): void => {
    clock += milliseconds
    for (const step of waiting.splice(0)) step(clock)
  }
  const gliding = () => {
    const view = createView(
      document.createElement('canvas'),
      () => undefined,
      () => false,
    )
    view.setAspect(1.6)
    view.setCamera({ position: [0, 1, 8], target: [0, 1, 0], fieldOfView: 40 })
    return view
  }

  test('is soft, ends where it leads, and back is where it came from', () => {
    const view = gliding()
    const box = boxAt(40, 0, 0, 5)
    view.frame(box)
    expect(view.camera.position.x).toBeCloseTo(0, 6)
    after(160)
    expect(view.camera.position.x).toBeGreaterThan(5)
    expect(view.camera.position.x).toBeLessThan(35)
    after(400)
    expect(view.shows(box)).toBe(true)
    expect(waiting).toEqual([])
    view.back()
    after(500)
    expect(view.cameraNow()).toEqual({ position: [0, 1, 8], target: [0, 1, 0], fieldOfView: 40 })
    // there is no view before the first
    view.back()
    after(500)
    expect(view.cameraNow().position).toEqual([0, 1, 8])
  })

  test('ends where somebody takes the camera', () => {
    const view = gliding()
    view.frame(boxAt(40, 0, 0, 5))
    after(100)
    const { x } = view.camera.position
    view.controls.dispatchEvent({ type: 'start' } as never)
    after(500)
    expect(view.camera.position.x).toBe(x)
  })
})

test('a view of a thing of millimetres is kept as finely as it is seen', () => {
  const view = viewFrom([0.00123456, 0.001, 0.004], [0, 0.001, 0])
  const { position } = view.cameraNow()
  expect(position[0]).toBeCloseTo(0.00123456, 6)
})
