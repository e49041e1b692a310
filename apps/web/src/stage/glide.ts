/** How the camera goes elsewhere by itself: softly, and back again. */
import type { PerspectiveCamera, Vector3 } from 'three'
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js'

/** Milliseconds of the way, and how many views are remembered. */
const GLIDE = 320
const REMEMBERED = 20

interface Place {
  position: Vector3
  target: Vector3
}

export const wantsNoMotion = (): boolean => matchMedia('(prefers-reduced-motion: reduce)').matches

/**
 * @param update after each move
 * @param still whether the camera is to be there at once, for who wants no motion
 */
export function createGlide(
  camera: PerspectiveCamera,
  controls: OrbitControls,
  update: () => void,
  still: () => boolean,
) {
  const before: Place[] = []
  const now = (): Place => ({ position: camera.position.clone(), target: controls.target.clone() })
  let way = 0
  // whoever takes the camera has it
  controls.addEventListener('start', () => cancelAnimationFrame(way))
  function glide({ position, target }: Place): void {
    const from = now()
    const began = performance.now()
    const step = (time: number): void => {
      const part = still() ? 1 : Math.min(1, Math.max(0, (time - began) / GLIDE))
      const eased = part * part * (3 - 2 * part)
      camera.position.lerpVectors(from.position, position, eased)
      controls.target.lerpVectors(from.target, target, eased)
      update()
      if (part < 1) way = requestAnimationFrame(step)
    }
    cancelAnimationFrame(way)
    step(began)
  }
  return {
    goTo(place: Place): void {
      before.push(now())
      if (before.length > REMEMBERED) before.shift()
      glide(place)
    },
    /** Goes back to the view before the camera last went somewhere by itself. */
    back(): void {
      const place = before.pop()
      if (place) glide(place)
    },
  }
}
