/** From where the stage is seen: the camera and the controls that move it. */
import type { Shot } from '@tangle/core'
import { Box3, PerspectiveCamera, Vector3 } from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'

type ShotCamera = Shot['stage']['camera']
export type View = ReturnType<typeof createView>

const radiansOf = (degrees: number): number => (degrees * Math.PI) / 180

export function createView(canvas: HTMLCanvasElement, draw: () => void) {
  const camera = new PerspectiveCamera(40, 1, 0.01, 2000)
  const controls = new OrbitControls(camera, canvas)
  controls.addEventListener('change', draw)
  function update(): void {
    controls.update()
    draw()
  }
  return {
    camera,
    controls,
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
      camera.updateProjectionMatrix()
      update()
    },
    cameraNow(): ShotCamera {
      const round = (v: Vector3): [number, number, number] =>
        [v.x, v.y, v.z].map((x) => Math.round(x * 1000) / 1000) as [number, number, number]
      return { position: round(camera.position), target: round(controls.target), fieldOfView: camera.fov }
    },
    /** Moves the camera until a box fills the picture. */
    frame(box: Box3): void {
      const centre = box.getCenter(new Vector3())
      const radius = Math.max(0.05, box.getSize(new Vector3()).length() / 2)
      const away = camera.position.clone().sub(controls.target).normalize()
      controls.target.copy(centre)
      const distance = (radius * 1.25) / Math.sin(radiansOf(camera.fov))
      camera.position.copy(centre).addScaledVector(away, distance)
      update()
    },
    /** Looks along an axis, keeping the distance. */
    lookAlong(direction: [number, number, number]): void {
      const distance = camera.position.distanceTo(controls.target)
      camera.position.copy(controls.target).addScaledVector(new Vector3(...direction).normalize(), distance)
      update()
    },
  }
}
