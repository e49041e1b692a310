/** The cameras of a shot as those of glTF 2.0 (Khronos), §3.10: they look along −z, x to the right. */
import {
  cameraAt,
  cross,
  fieldOfViewIn,
  subtract,
  unit,
  type CameraView,
  type Shot,
  type Vector,
} from '@tangle/core'
import type { Document, Node } from '@gltf-transform/core'

/** Nearer than this, m, nothing is seen. */
const NEAR = 0.01

/** A node for each camera, as it is at a frame. */
export const cameraNodes = (document: Document, shot: Shot, frame: number): Node[] =>
  shot.cameras.map((camera) => {
    const seen = cameraAt(shot, camera, frame)
    const made = document
      .createCamera(camera.name)
      .setType('perspective')
      .setAspectRatio(seen.aspect)
      .setYFov((fieldOfViewIn(seen.aspect, seen) * Math.PI) / 180)
      .setZNear(NEAR)
    return document.createNode(camera.name).setMatrix(poseOf(seen)).setCamera(made).setExtras({ of: 'camera', id: camera.id }) // prettier-ignore
  })

/** From the camera into the world, column by column. */
function poseOf({ position, target, roll }: CameraView): Parameters<Node['setMatrix']>[0] {
  const back = unit(subtract(position, target), [0, 0, 1])
  // one that looks straight up or down has z up
  const level = unit(cross([0, 1, 0], back), cross([0, 0, -1], back))
  const upright = cross(back, level)
  // turned about the way it looks
  const [cos, sin] = [Math.cos((roll * Math.PI) / 180), Math.sin((roll * Math.PI) / 180)]
  const right = level.map((x, k) => x * cos - upright[k]! * sin) as Vector
  const up = cross(back, right)
  return [...right, 0, ...up, 0, ...back, 0, ...position, 1] as unknown as ReturnType<typeof poseOf>
}
