/** From where the stage is seen: the camera and the controls that move it. */
import { fieldOfViewIn, type CameraView, type Shot } from '@tangle/core'
import { Box3, PerspectiveCamera, Vector3 } from 'three'
import { roundedTo } from '../rounding.ts'
import { createGlide, wantsNoMotion } from './glide.ts'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'

type ShotCamera = Shot['stage']['camera']
export type View = ReturnType<typeof createView>

/** How far one sees at the least, metres, and the smallest thing that is framed. */
const [FAR, LEAST] = [2000, 1e-4]

/** Half the size of what is a dot, and of what is larger than the picture, as shares of half its height. */
const [DOT, FILLS] = [0.03, 1.6]

const radiansOf = (degrees: number): number => (degrees * Math.PI) / 180

/** Looking as a camera of the shot does, and back as one did. */
function createThrough(camera: PerspectiveCamera, controls: OrbitControls, fitDepths: () => void) {
  let own: { position: Vector3; target: Vector3; fov: number } | null = null
  return (seen: CameraView | null): void => {
    if (seen === null) {
      if (!own) return
      camera.position.copy(own.position)
      controls.target.copy(own.target)
      camera.fov = own.fov
      camera.up.set(0, 1, 0)
      own = null
      controls.enabled = true
      controls.update()
    } else {
      own ??= { position: camera.position.clone(), target: controls.target.clone(), fov: camera.fov }
      controls.enabled = false
      camera.position.set(...seen.position)
      controls.target.set(...seen.target)
      camera.fov = fieldOfViewIn(camera.aspect, seen)
      const ahead = controls.target.clone().sub(camera.position).normalize()
      camera.up.set(0, 1, 0).applyAxisAngle(ahead, radiansOf(seen.roll))
      camera.lookAt(controls.target)
      camera.updateMatrixWorld()
    }
    fitDepths()
  }
}

/** @param still whether the camera is to be there at once, for who wants no motion */
export function createView(canvas: HTMLCanvasElement, draw: () => void, still = wantsNoMotion) {
  const camera = new PerspectiveCamera(40, 1, 0.01, FAR)
  const controls = new OrbitControls(camera, canvas)
  controls.addEventListener('change', () => {
    fitDepths()
    draw()
  })
  /** What is near goes by what is looked at, from millimetres to hundreds of metres. */
  function fitDepths(): void {
    const distance = camera.position.distanceTo(controls.target)
    camera.near = Math.min(0.01, distance / 100)
    camera.far = Math.max(FAR, distance * 20)
    camera.updateProjectionMatrix()
  }
  function update(): void {
    controls.update()
    fitDepths()
    draw()
  }
  /**
   * Looks from another place of the lens, in lens radii from its middle: what is sharp stays where it is in the picture.
   * Source: Haeberli, Akeley, "The accumulation buffer", SIGGRAPH 1990.
   */
  function throughLens({ lens, focus }: CameraView, [x, y]: readonly [number, number]): void {
    if (lens === 0) return
    camera.translateX(x * lens)
    camera.translateY(y * lens)
    const { elements } = camera.projectionMatrix
    elements[8]! -= (elements[0]! * x * lens) / focus
    elements[9]! -= (elements[5]! * y * lens) / focus
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert()
    camera.updateMatrixWorld()
  }
  const { goTo, back } = createGlide(camera, controls, update, still)
  const through = createThrough(camera, controls, fitDepths)
  return {
    camera,
    controls,
    back,
    /** Looks as a camera of the shot does; null gives the view back that one had. */
    through,
    throughLens,
    /** Pixels that a metre takes at a distance of one metre, in a picture so high. */
    pixels: (height: number): number => height / (2 * Math.tan(radiansOf(camera.fov) / 2)),
    setAspect(aspect: number): void {
      camera.aspect = aspect
      camera.updateProjectionMatrix()
    },
    /** Looks as the shot's camera does. */
    setCamera({ position, target, fieldOfView }: ShotCamera): void {
      camera.position.set(...position)
      camera.fov = fieldOfView
      controls.target.set(...target)
      update()
    },
    cameraNow(): ShotCamera {
      const distance = camera.position.distanceTo(controls.target)
      const round = (v: Vector3): [number, number, number] =>
        v.toArray().map((x) => roundedTo(x, distance, 4)) as [number, number, number]
      return { position: round(camera.position), target: round(controls.target), fieldOfView: camera.fov }
    },
    /** Moves the camera until a box fills the picture, whichever way it is looked at. */
    frame(box: Box3): void {
      const centre = box.getCenter(new Vector3())
      const radius = Math.max(LEAST, box.getSize(new Vector3()).length() / 2)
      const away = camera.position.clone().sub(controls.target).normalize()
      const up = radiansOf(camera.fov) / 2
      const across = Math.atan(Math.tan(up) * camera.aspect)
      const position = centre.clone().addScaledVector(away, radius / Math.sin(Math.min(up, across)))
      goTo({ position, target: centre })
    },
    /** Whether a box is well in view: before the camera, neither larger than the picture nor a dot. */
    shows(box: Box3): boolean {
      camera.updateMatrixWorld()
      const centre = box.getCenter(new Vector3())
      const distance = Math.max(LEAST, camera.position.distanceTo(centre))
      const height =
        box.getSize(new Vector3()).length() / 2 / (distance * Math.tan(radiansOf(camera.fov) / 2))
      const { x, y, z } = centre.project(camera)
      return Math.abs(x) < 1 && Math.abs(y) < 1 && Math.abs(z) < 1 && height > DOT && height < FILLS
    },
    /** Looks along an axis, keeping the distance. */
    lookAlong(direction: [number, number, number]): void {
      const distance = camera.position.distanceTo(controls.target)
      const target = controls.target.clone()
      goTo({
        position: target.clone().addScaledVector(new Vector3(...direction).normalize(), distance),
        target,
      })
    },
  }
}
