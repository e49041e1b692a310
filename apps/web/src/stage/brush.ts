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
  /** Called with the places of a stroke so far, and at its end. */
  onStroke(points: [number, number, number][], done: boolean): void
}

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

interface Hit {
  point: Vector3
  normal: Vector3
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
  const ray = new Raycaster()
  let target: BrushTarget | null = null
  let stroke: [number, number, number][] | null = null

  function hitUnder({ clientX, clientY }: { clientX: number; clientY: number }): Hit | null {
    const { x, y, width, height } = canvas.getBoundingClientRect()
    ray.setFromCamera(new Vector2(((clientX - x) / width) * 2 - 1, 1 - ((clientY - y) / height) * 2), camera)
    const visible = bodies.children.filter((one) => one.visible)
    const hit = ray.intersectObjects(visible, false)[0]
    if (!hit?.face) return null
    return { point: hit.point, normal: hit.face.normal.clone().transformDirection(hit.object.matrixWorld) }
  }
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
  function add(point: Vector3): void {
    const last = stroke!.at(-1)
    if (last && point.distanceTo(new Vector3(...last)) < target!.radius * SPACING) return
    stroke!.push(point.toArray())
    target!.onStroke(stroke!, false)
  }
  function beginStroke(event: PointerEvent): void {
    if (!target || event.button !== 0) return
    const hit = show(event)
    // beside the mesh the pointer turns the view
    if (!hit) return
    controls.enabled = false
    stroke = []
    canvas.setPointerCapture(event.pointerId)
    add(hit.point)
  }
  function continueStroke(event: PointerEvent): void {
    if (!target) return
    const hit = show(event)
    if (stroke && hit) add(hit.point)
  }
  function endStroke(): void {
    controls.enabled = true
    if (stroke && target) target.onStroke(stroke, true)
    stroke = null
  }
  // before the camera's own listener, which would turn the view
  canvas.addEventListener('pointerdown', beginStroke, { capture: true })
  canvas.addEventListener('pointermove', continueStroke)
  canvas.addEventListener('pointerup', endStroke)
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
