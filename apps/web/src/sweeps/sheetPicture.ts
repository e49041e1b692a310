import type { Shot } from '@tangle/core'
import { BACKDROPS } from '@tangle/core'
import type { SheetPoints } from '@tangle/runtime/browser'
import { PerspectiveCamera, Vector3 } from 'three'

/** Pixels of a side of a particle. */
const DOT = 2

/** Draws particles into a small picture as the shot's camera sees them. */
export function drawPoints(
  canvas: HTMLCanvasElement,
  points: SheetPoints,
  { camera, backdrop }: Shot['stage'],
): void {
  const context = canvas.getContext('2d')
  if (!context) return
  const { width, height } = canvas
  const eye = new PerspectiveCamera(camera.fieldOfView, width / height, 0.001, 1e6)
  eye.position.set(...camera.position)
  eye.lookAt(new Vector3(...camera.target))
  eye.updateMatrixWorld()
  const m = eye.projectionMatrix.clone().multiply(eye.matrixWorldInverse).elements
  context.fillStyle = BACKDROPS[backdrop]!.horizon // the schema lets no other pass
  context.fillRect(0, 0, width, height)
  const { positions, colours } = points
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!]
    const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!
    if (w <= 0) continue
    const across = ((m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w + 1) * 0.5 * width
    const down = (1 - (m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w) * 0.5 * height
    context.fillStyle = `rgb(${colours[i]!} ${colours[i + 1]!} ${colours[i + 2]!})`
    context.fillRect(across - DOT / 2, down - DOT / 2, DOT, DOT)
  }
}
