/** Paints pictures of the stage: what is shown, and beyond a line what it is compared with. */
import type { Shot } from '@tangle/core'
import { AgXToneMapping, LinearToneMapping, Vector2, type WebGLRenderer } from 'three'
import type { Engine } from '../engine/engine.ts'
import { createEffects } from './effects.ts'
import { place, type Picture, type StageObjects } from './objects.ts'
import type { View } from './view.ts'
import type { Shown } from './world.ts'

/** @param samples of each pixel, where something is done to the picture as a whole */
export function createPainter(
  renderer: WebGLRenderer,
  objects: StageObjects,
  view: View,
  engine: Engine,
  samples: number,
) {
  const { scene } = objects
  const effects = createEffects(renderer, scene, view.camera, samples)
  const size = new Vector2()

  function paintWhole(picture: Picture): void {
    const { shot, shown, fineness } = picture
    place(objects, view, engine, picture)
    const bloom = spills(shot, shown) ? shot.stage.bloom : null
    const dims = fineness.light === 2 ? view.camera.position.distanceTo(view.controls.target) : null
    if (bloom || dims !== null) effects.render({ bloom, dims })
    else renderer.render(scene, view.camera)
  }

  /** The same place of both, on either side of a line. */
  function paintSplit(picture: Picture, split: number): void {
    paintWhole(picture)
    const { width, height } = renderer.getSize(size)
    const from = Math.round(width * split)
    renderer.setScissor(from, 0, width - from, height)
    renderer.setScissorTest(true)
    engine.beside(() => paintWhole(picture))
    renderer.setScissorTest(false)
  }

  /** Both whole, side by side. */
  function paintHalves(picture: Picture): void {
    const { width, height } = renderer.getSize(size)
    const half = Math.round(width / 2)
    const { canvas } = picture
    const paintAt = (from: number, across: number): void => {
      renderer.setViewport(from, 0, across, height)
      renderer.setScissor(from, 0, across, height)
      paintWhole({ ...picture, canvas: { width: (canvas.width * across) / width, height: canvas.height } })
    }
    view.setAspect(half / height)
    renderer.setScissorTest(true)
    paintAt(0, half)
    engine.beside(() => paintAt(half, width - half))
    renderer.setScissorTest(false)
    renderer.setViewport(0, 0, width, height)
    view.setAspect(width / height)
  }

  return {
    paint(picture: Picture): void {
      expose(renderer, picture.shot)
      if (!engine.comparedShot || picture.shown.filmed?.alone) return paintWhole(picture)
      const { split } = picture.shown
      if (split === null) paintHalves(picture)
      else paintSplit(picture, split)
    },
    dispose: effects.dispose,
  }
}

/** From light to colours, as the shot says. */
function expose(renderer: WebGLRenderer, { stage: { picture } }: Shot): void {
  renderer.toneMapping = picture.tone === 'film' ? AgXToneMapping : LinearToneMapping
  renderer.toneMappingExposure = 2 ** picture.exposure
}

/** Whether light of anything that glows spills over: not where colours stand for something else. */
const spills = ({ populations, stage: { bloom } }: Shot, { byPhase, quiet }: Shown): boolean =>
  bloom.strength > 0 && !byPhase && !quiet && populations.some(({ look }) => (look.glow?.strength ?? 0) > 0)
