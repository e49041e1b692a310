/** The picture with what is done to it as a whole, by three's own passes, which are made when they are needed. */
import type { Shot } from '@tangle/core'
import { HalfFloatType, Vector2, WebGLRenderTarget, type Camera, type Scene, type WebGLRenderer } from 'three'
import { EffectComposer } from 'three/addons/postprocessing/EffectComposer.js'
import { GTAOPass } from 'three/addons/postprocessing/GTAOPass.js'
import { OutputPass } from 'three/addons/postprocessing/OutputPass.js'
import { RenderPass } from 'three/addons/postprocessing/RenderPass.js'
import { UnrealBloomPass } from 'three/addons/postprocessing/UnrealBloomPass.js'

/** How far what is close dims, as a share of the distance to what is looked at. */
const CLOSE = 0.06

/** What is done to a picture. */
export interface Effects {
  /** Light spills over from what glows; null: nothing does. */
  bloom: Shot['stage']['bloom'] | null
  /** What lies close dims one another (ambient occlusion); metres to what is looked at, or null. */
  dims: number | null
}

export function createEffects(renderer: WebGLRenderer, scene: Scene, camera: Camera, samples: number) {
  const size = new Vector2(1, 1)
  let made: { composer: EffectComposer; spill: UnrealBloomPass; dim: GTAOPass } | null = null
  let drawn = ''
  function make() {
    const composer = new EffectComposer(
      renderer,
      new WebGLRenderTarget(1, 1, { type: HalfFloatType, samples }),
    )
    const dim = new GTAOPass(scene, camera)
    dim.updateGtaoMaterial({ samples: 12 })
    const spill = new UnrealBloomPass(size, 1, 1, 1)
    for (const pass of [new RenderPass(scene, camera), dim, spill, new OutputPass()]) composer.addPass(pass)
    return { composer, spill, dim }
  }
  return {
    render({ bloom, dims }: Effects): void {
      const { composer, spill, dim } = (made ??= make())
      renderer.getSize(size)
      const now = `${size.x} ${size.y} ${renderer.getPixelRatio()}`
      if (now !== drawn) {
        composer.setPixelRatio(renderer.getPixelRatio())
        composer.setSize(size.x, size.y)
        drawn = now
      }
      Object.assign(spill, bloom ?? {})
      spill.enabled = bloom !== null
      dim.enabled = dims !== null
      const radius = CLOSE * (dims ?? 1)
      dim.updateGtaoMaterial({ radius, thickness: radius })
      composer.render()
    },
    dispose: (): void => made?.composer.dispose(),
  }
}
