import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineLoop,
  Raycaster,
  Vector2,
  Vector3,
  type Group,
  type Scene,
} from 'three'
import type { View } from './view.ts'

export interface BrushTarget {
  /** Metres. */
  radius: number
  /** Called with the places of a stroke so far, how hard a pen was pressed at each (0–1), and at its end. */
  onStroke(points: [number, number, number][], pressures: number[], done: boolean): void
}

/** A finger brushes once it has gone so many pixels: until then a second one may come, and both turn the view. */
const FINGER = 6
/** Places of a stroke stand at least this part of the radius apart. */
const SPACING = 0.25

/** The ring that shows how wide the brush is. */
function makeRing(): LineLoop {
  const circle = Array.from({ length: 64 }, (_, i) => {
    const turn = (i / 64) * 2 * Math.PI
    return [Math.cos(turn), Math.sin(turn), 0]
  })
  const ring = new LineLoop(
    new BufferGeometry().setAttribute('position', new Float32BufferAttribute(circle.flat(), 3)),
    new LineBasicMaterial({ color: 0xffffff, depthTest: false, transparent: true, opacity: 0.9 }),
  )
  ring.visible = false
  ring.renderOrder = 20
  return ring
}

interface Stroke {
  /** What it began with. */
  first: PointerEvent
  /** Whether it is sure that it is one. */
  begun: boolean
  points: [number, number, number][]
  pressures: number[]
}

/** How hard a pen is pressed; whatever else has no such thing presses fully. */
const pressureOf = ({ pointerType, pressure }: PointerEvent): number =>
  pointerType === 'pen' && pressure > 0 ? Number(pressure.toFixed(3)) : 1

interface Hit {
  point: Vector3
  normal: Vector3
}

/** The place of a mesh under the pointer. */
function createAim(canvas: HTMLCanvasElement, camera: View['camera'], bodies: Group) {
  const ray = new Raycaster()
  return ({ clientX, clientY }: { clientX: number; clientY: number }): Hit | null => {
    const { x, y, width, height } = canvas.getBoundingClientRect()
    ray.setFromCamera(new Vector2(((clientX - x) / width) * 2 - 1, 1 - ((clientY - y) / height) * 2), camera)
    const visible = bodies.children.filter((one) => one.visible)
    const hit = ray.intersectObjects(visible, false)[0]
    if (!hit?.face) return null
    return { point: hit.point, normal: hit.face.normal.clone().transformDirection(hit.object.matrixWorld) }
  }
}

/** Paints with the pointer on whatever mesh is under it: a ring shows the brush, a drag is a stroke. */
export function createBrush(
  canvas: HTMLCanvasElement,
  { camera, controls }: View,
  bodies: Group,
  draw: () => void,
  scene: Scene,
) {
  const ring = makeRing()
  scene.add(ring)
  const hitUnder = createAim(canvas, camera, bodies)
  let target: BrushTarget | null = null
  let stroke: Stroke | null = null

  function show(event: PointerEvent): Hit | null {
    const hit = hitUnder(event)
    ring.visible = hit !== null
    if (hit && target) {
      ring.position.copy(hit.point)
      ring.lookAt(hit.point.clone().add(hit.normal))
      ring.scale.setScalar(target.radius)
    }
    draw()
    return hit
  }
  function add(point: Vector3, event: PointerEvent): void {
    const { points, pressures, begun } = stroke!
    const last = points.at(-1)
    if (!last || point.distanceTo(new Vector3(...last)) >= target!.radius * SPACING) {
      points.push(point.toArray())
      pressures.push(pressureOf(event))
    } else if (begun) return
    if (begun) target!.onStroke(points, pressures, false)
  }
  function beginStroke(event: PointerEvent): void {
    if (!target || event.button !== 0) return
    if (stroke) return turnInstead()
    const hit = show(event)
    // beside the mesh the pointer turns the view
    if (!hit) return
    controls.enabled = false
    stroke = { first: event, begun: event.pointerType !== 'touch', points: [], pressures: [] }
    canvas.setPointerCapture(event.pointerId)
    add(hit.point, event)
  }
  /** With a second finger there is no stroke, or its end: both fingers are the camera's. */
  function turnInstead(): void {
    const { first } = stroke!
    endStroke()
    const { pointerId, pointerType, clientX, clientY, isPrimary, button, buttons } = first
    const again = { pointerId, pointerType, clientX, clientY, isPrimary, button, buttons, bubbles: true }
    canvas.removeEventListener('pointerdown', beginStroke, { capture: true })
    canvas.dispatchEvent(new PointerEvent('pointerdown', again))
    canvas.addEventListener('pointerdown', beginStroke, { capture: true })
  }
  function continueStroke(event: PointerEvent): void {
    if (!target || (stroke && stroke.first.pointerId !== event.pointerId)) return
    const hit = show(event)
    if (!stroke || !hit) return
    const { first } = stroke
    if (Math.hypot(event.clientX - first.clientX, event.clientY - first.clientY) >= FINGER)
      stroke.begun = true
    add(hit.point, event)
  }
  function endStroke(): void {
    controls.enabled = true
    if (stroke?.begun && target) target.onStroke(stroke.points, stroke.pressures, true)
    stroke = null
  }
  function lift(event: PointerEvent): void {
    if (stroke?.first.pointerId !== event.pointerId) return
    // a finger that tapped has brushed one place
    if (event.type === 'pointerup') stroke.begun = true
    endStroke()
  }
  // before the camera's own listener, which would turn the view
  canvas.addEventListener('pointerdown', beginStroke, { capture: true })
  canvas.addEventListener('pointermove', continueStroke)
  canvas.addEventListener('pointerup', lift)
  canvas.addEventListener('pointercancel', lift)
  return {
    /** The place of a mesh under the pointer. */
    under: (event: { clientX: number; clientY: number }): [number, number, number] | null =>
      hitUnder(event)?.point.toArray() ?? null,
    set(next: BrushTarget | null): void {
      target = next
      if (!next) ring.visible = false
      draw()
    },
  }
}
