import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineLoop,
  Raycaster,
  Vector2,
  Vector3,
  type Camera,
  type Group,
  type Scene,
} from 'three'
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js'

export interface BrushTarget {
  /** Metres. */
  radius: number
  /** Called with the places of a stroke so far, and at its end. */
  onStroke(points: [number, number, number][], done: boolean): void
}

/** Places of a stroke stand at least this part of the radius apart. */
const SPACING = 0.25

/** Paints with the pointer on whatever mesh is under it: a ring shows the brush, a drag is a stroke. */
export function createBrush(
  canvas: HTMLCanvasElement,
  camera: Camera,
  controls: OrbitControls,
  bodies: () => Group,
  draw: () => void,
  scene: Scene,
) {
  const ring = new LineLoop(
    new BufferGeometry().setAttribute(
      'position',
      new Float32BufferAttribute(
        Array.from({ length: 64 }, (_, i) => {
          const turn = (i / 64) * 2 * Math.PI
          return [Math.cos(turn), Math.sin(turn), 0]
        }).flat(),
        3,
      ),
    ),
    new LineBasicMaterial({ color: 0xffffff, depthTest: false, transparent: true, opacity: 0.9 }),
  )
  ring.visible = false
  ring.renderOrder = 20
  scene.add(ring)
  const ray = new Raycaster()
  let target: BrushTarget | null = null
  let stroke: [number, number, number][] | null = null

  function place(event: { clientX: number; clientY: number }): { point: Vector3; normal: Vector3 } | null {
    const box = canvas.getBoundingClientRect()
    const at = new Vector2(
      ((event.clientX - box.x) / box.width) * 2 - 1,
      1 - ((event.clientY - box.y) / box.height) * 2,
    )
    ray.setFromCamera(at, camera)
    const hit = ray.intersectObjects(
      bodies().children.filter((one) => one.visible),
      false,
    )[0]
    if (!hit?.face) return null
    return { point: hit.point, normal: hit.face.normal.clone().transformDirection(hit.object.matrixWorld) }
  }
  function show(event: PointerEvent): { point: Vector3 } | null {
    const found = place(event)
    ring.visible = found !== null
    if (found && target) {
      ring.position.copy(found.point)
      ring.lookAt(found.point.clone().add(found.normal))
      ring.scale.setScalar(target.radius)
    }
    draw()
    return found
  }
  function add(point: Vector3): void {
    const last = stroke!.at(-1)
    if (last && point.distanceTo(new Vector3(...last)) < target!.radius * SPACING) return
    stroke!.push(point.toArray())
    target!.onStroke(stroke!, false)
  }
  canvas.addEventListener('pointermove', (event) => {
    if (!target) return
    const found = show(event)
    if (stroke && found) add(found.point)
  })
  // before the camera's own listener, which would turn the view
  const first = { capture: true }
  const down = (event: PointerEvent): void => {
    if (!target || event.button !== 0) return
    const found = show(event)
    // beside the mesh the pointer turns the view
    if (!found) return
    controls.enabled = false
    stroke = []
    canvas.setPointerCapture(event.pointerId)
    add(found.point)
  }
  canvas.addEventListener('pointerdown', down, first)
  canvas.addEventListener('pointerup', () => {
    controls.enabled = true
    if (stroke && target) target.onStroke(stroke, true)
    stroke = null
  })
  return {
    /** The place of a mesh under the pointer. */
    under: (event: { clientX: number; clientY: number }): [number, number, number] | null =>
      place(event)?.point.toArray() ?? null,
    set(next: BrushTarget | null): void {
      target = next
      if (!next) ring.visible = false
      draw()
    },
  }
}
