/** Handles that move, turn and scale a mesh on the stage. */
import { vectorAt, type ShotMesh, type Vector } from '@tangle/core'
import { Group, type Object3D, type Scene } from 'three'
import { TransformControls } from 'three/addons/controls/TransformControls.js'
import { roundedTo } from '../rounding.ts'
import type { View } from './view.ts'

export type HandleMode = 'move' | 'turn' | 'scale'
export interface Placed {
  position: [number, number, number]
  rotation: [number, number, number]
  scale: [number, number, number]
}

const CONTROL_MODES = { move: 'translate', turn: 'rotate', scale: 'scale' } as const

/**
 * @param colours of the axes x, y and z, and of what is selected
 * @param objectOf what is drawn of a mesh
 */
export function createHandles(
  canvas: HTMLCanvasElement,
  { camera, controls }: View,
  scene: Scene,
  colours: [string, string, string, string],
  objectOf: (mesh: string) => Object3D | undefined,
  draw: () => void,
) {
  const handle = new TransformControls(camera, canvas)
  const grip = new Group()
  let held: string | null = null
  let placed: (mesh: string, place: Placed) => void = () => undefined
  scene.add(grip, handle.getHelper())
  handle.setSize(0.8)
  handle.setColors(...colours)
  handle.addEventListener('dragging-changed', (event) => {
    controls.enabled = !event.value
    if (!event.value && held !== null)
      placed(held, placeOf(grip, camera.position.distanceTo(controls.target)))
  })
  handle.addEventListener('objectChange', () => {
    grip.updateMatrix()
    if (held !== null) objectOf(held)?.matrix.copy(grip.matrix)
    draw()
  })
  handle.addEventListener('change', draw)
  return {
    /** The mesh that is being dragged. */
    dragged: (): string | null => (handle.dragging ? held : null),
    /** Puts the handles on a mesh as it stands at a frame; says where it was put when they are let go. */
    show({ id, place }: ShotMesh, frame: number, mode: HandleMode, onPlaced: typeof placed): void {
      held = id
      placed = onPlaced
      const [x, y, z] = vectorAt(place.rotation, frame).map((d) => (d * Math.PI) / 180)
      grip.position.set(...vectorAt(place.position, frame))
      grip.rotation.set(x!, y!, z!, 'ZYX')
      grip.scale.set(...vectorAt(place.scale, frame))
      handle.setMode(CONTROL_MODES[mode])
      handle.attach(grip)
    },
    hide(): void {
      held = null
      handle.detach()
    },
    visible(on: boolean): void {
      handle.getHelper().visible = on && held !== null
    },
    dispose: () => handle.dispose(),
  }
}

/** In numbers that are as fine as what can be seen from so far away, metres. */
function placeOf({ position, rotation, scale }: Group, distance: number): Placed {
  const degrees = (angle: number): number => roundedTo((angle * 180) / Math.PI, 1, 2)
  return {
    position: position.toArray().map((x) => roundedTo(x, distance)) as Vector,
    rotation: [degrees(rotation.x), degrees(rotation.y), degrees(rotation.z)],
    scale: scale.toArray().map((x) => roundedTo(x, x)) as Vector,
  }
}
