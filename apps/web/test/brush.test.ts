/** @jest-environment jsdom */
/** The brush of the stage under a mouse, a pen and fingers. */
import { Group, Mesh, MeshBasicMaterial, PerspectiveCamera, PlaneGeometry, Scene } from 'three'
import { createBrush } from '../src/stage/brush.ts'
import type { View } from '../src/stage/view.ts'

class Pointer extends MouseEvent {
  pointerId: number
  pointerType: string
  pressure: number
  isPrimary: boolean
  constructor(type: string, init: PointerEventInit = {}) {
    super(type, init)
    this.pointerId = init.pointerId ?? 1
    this.pointerType = init.pointerType ?? 'mouse'
    this.pressure = init.pressure ?? 0
    this.isPrimary = init.isPrimary ?? true
  }
}
globalThis.PointerEvent = Pointer as never

/** A square of 2 m that fills a canvas of 100 pixels, seen from straight before it. */
function page() {
  const canvas = document.createElement('canvas')
  canvas.getBoundingClientRect = () => ({ x: 0, y: 0, width: 100, height: 100 }) as DOMRect
  canvas.setPointerCapture = () => undefined
  const camera = new PerspectiveCamera(90, 1, 0.1, 10)
  camera.position.z = 1
  camera.updateMatrixWorld()
  const controls = { enabled: true }
  const bodies = new Group().add(new Mesh(new PlaneGeometry(1.6, 1.6), new MeshBasicMaterial()))
  bodies.updateMatrixWorld(true)
  const brush = createBrush(
    canvas,
    { camera, controls } as unknown as View,
    bodies,
    () => undefined,
    new Scene(),
  )
  const strokes: { points: number[][]; pressures: number[]; done: boolean }[] = []
  brush.set({
    radius: 0.2,
    onStroke: (points, pressures, done) =>
      void strokes.push({ points: points.slice(), pressures: pressures.slice(), done }),
  })
  /** What the camera's own listener heard. */
  const turned: number[] = []
  canvas.addEventListener('pointerdown', (event) => controls.enabled && turned.push(event.pointerId))
  const send = (type: string, x: number, y: number, init: PointerEventInit = {}): void =>
    void canvas.dispatchEvent(new Pointer(`pointer${type}`, { clientX: x, clientY: y, button: 0, ...init }))
  return { strokes, turned, controls, send }
}

test('a mouse: every place a quarter of the radius on, pressed fully; beside the mesh the view is turned', () => {
  const { strokes, turned, controls, send } = page()
  send('down', 40, 50)
  expect(controls.enabled).toBe(false)
  for (let x = 41; x <= 60; x++) send('move', x, 50)
  send('up', 60, 50)
  const { points, pressures, done } = strokes.at(-1)!
  expect(done).toBe(true)
  expect(points.length).toBeGreaterThan(6)
  expect(points.length).toBeLessThan(10)
  expect(pressures.every((one) => one === 1)).toBe(true)
  expect(controls.enabled).toBe(true)
  expect(turned).toEqual([])
  const { length } = strokes
  send('down', 2, 2)
  send('up', 2, 2)
  expect(turned).toEqual([1])
  expect(strokes).toHaveLength(length)
})

test('a pen: as hard as it is pressed at each place', () => {
  const { strokes, send } = page()
  const pen = (pressure: number): PointerEventInit => ({ pointerType: 'pen', pressure })
  send('down', 40, 50, pen(0.2))
  send('move', 45, 50, pen(0.5))
  send('move', 50, 50, pen(1))
  send('up', 50, 50, pen(0))
  expect(strokes.at(-1)!.pressures).toEqual([0.2, 0.5, 1])
})

describe('fingers', () => {
  const finger = (pointerId: number): PointerEventInit => ({ pointerType: 'touch', pointerId, isPrimary: pointerId === 1 }) // prettier-ignore

  test('one that moves brushes, one that taps brushes a place', () => {
    const { strokes, send } = page()
    send('down', 40, 50, finger(1))
    expect(strokes).toEqual([])
    send('move', 50, 50, finger(1))
    send('up', 50, 50, finger(1))
    expect(strokes.at(-1)!.points).toHaveLength(2)
    send('down', 30, 50, finger(1))
    send('up', 30, 50, finger(1))
    expect(strokes.at(-1)).toMatchObject({ pressures: [1], done: true })
  })

  test('two turn the view, and nothing is brushed', () => {
    const { strokes, turned, controls, send } = page()
    send('down', 40, 50, finger(1))
    send('down', 60, 50, finger(2))
    expect(turned).toEqual([1, 2])
    send('move', 20, 50, finger(1))
    send('move', 80, 50, finger(2))
    send('up', 20, 50, finger(1))
    send('up', 80, 50, finger(2))
    expect(strokes).toEqual([])
    expect(controls.enabled).toBe(true)
    // and one alone brushes again
    send('down', 40, 50, finger(3))
    send('move', 52, 50, finger(3))
    expect(strokes.length).toBeGreaterThan(0)
  })

  test('a second one ends a stroke that has begun; what the system takes away is kept as far as it went', () => {
    const { strokes, controls, send } = page()
    send('down', 40, 50, finger(1))
    send('move', 52, 50, finger(1))
    send('down', 60, 50, finger(2))
    expect(strokes.at(-1)).toMatchObject({ done: true })
    send('up', 60, 50, finger(2))
    send('up', 52, 50, finger(1))
    send('down', 40, 50, finger(1))
    send('move', 52, 50, finger(1))
    send('cancel', 52, 50, finger(1))
    expect(strokes.at(-1)).toMatchObject({ done: true })
    expect(controls.enabled).toBe(true)
  })
})
