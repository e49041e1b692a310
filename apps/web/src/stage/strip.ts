/** Pictures of a shot that move: some of its frames beside one another, taken as they pass while it plays. */
import type { Shot } from '@tangle/core'
import { STRIP_PICTURES as PICTURES } from '../words.ts'
import { drawMiddle } from './picture.ts'

/** Of one of them, pixels. */
const [WIDTH, HEIGHT] = [320, 200]

export interface Passing {
  shot: Shot
  frame: number
  /** Of which meshes that change are shown, where there are some. */
  meshesOf: number | undefined
  /** Draws it without what only helps to work. */
  drawBare(): void
}

/** @param whole takes them, once every part of the shot has passed as it is */
export function createStrip(canvas: HTMLCanvasElement, whole: (strip: Blob) => void) {
  let of: Shot | null = null
  let taken = new Set<number>()
  let strip: HTMLCanvasElement
  function begin(shot: Shot): void {
    of = shot
    taken = new Set()
    strip = Object.assign(document.createElement('canvas'), { width: WIDTH * PICTURES, height: HEIGHT })
  }
  return {
    /** Takes the picture of a frame where its part of the shot has none yet; the first that comes is as good as any. */
    pass({ shot, frame, meshesOf, drawBare }: Passing): void {
      if (shot !== of) begin(shot)
      const { first, last } = shot.frames
      const part = Math.floor(((frame - first) / (last - first + 1)) * PICTURES)
      // they come a little later; those of frames to come are of the time before
      const late = frame - (meshesOf ?? frame)
      if (taken.has(part) || late < 0 || late * PICTURES > last - first + 1) return
      taken.add(part)
      drawBare()
      drawMiddle(strip, canvas, part * WIDTH, WIDTH, HEIGHT)
      if (taken.size === PICTURES) strip.toBlob((made) => made && whole(made), 'image/webp', 0.8)
    },
  }
}
