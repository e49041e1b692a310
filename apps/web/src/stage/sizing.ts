/** How large pictures are: as the stage on the page, or as a movie asks. */
import type { WebGLRenderer } from 'three'
import type { View } from './view.ts'
import type { Filmed } from './world.ts'

export interface Sized {
  canvas: HTMLCanvasElement
  renderer: WebGLRenderer
  view: View
  /** Draws the stage; draws a picture for others. */
  draw(): void
  drawBare(filmed: Filmed): void
}

export function createSizing({ canvas, renderer, view, draw, drawBare }: Sized) {
  let onPage: [width: number, height: number, ratio: number] = [1, 1, 1]
  let filming = false
  function fit(width: number, height: number): void {
    renderer.setSize(width, height, false)
    view.setAspect(width / Math.max(1, height))
  }
  return {
    /** Pixels of the picture for one of the page. */
    ratio: (): number => (filming ? 1 : onPage[2]),
    filming: (): boolean => filming,
    resize(width: number, height: number, ratio: number): void {
      onPage = [width, height, ratio]
      if (filming) return
      fit(width, height)
      // at once: a canvas of another size is empty
      draw()
    },
    /** A picture of a movie, so many pixels large, as well drawn as it may be. */
    film(width: number, height: number, filmed: Filmed): Promise<ImageBitmap> {
      filming = true
      canvas.style.objectFit = 'contain'
      renderer.setPixelRatio(1)
      fit(width, height)
      drawBare(filmed)
      return createImageBitmap(canvas)
    },
    /** The stage is as large as it was before a movie was made. */
    filmed(): void {
      if (!filming) return
      filming = false
      canvas.style.objectFit = ''
      fit(onPage[0], onPage[1])
      draw()
    },
  }
}
