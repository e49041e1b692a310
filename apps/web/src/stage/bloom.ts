/** The picture with light that spills over from what glows; three's own passes, made when something does. */
import type { Shot } from '@tangle/core'
import { HalfFloatType, Vector2, WebGLRenderTarget, type Camera, type Scene, type WebGLRenderer } from 'three'
import { EffectComposer } from 'three/addons/postprocessing/EffectComposer.js'
import { OutputPass } from 'three/addons/postprocessing/OutputPass.js'
import { RenderPass } from 'three/addons/postprocessing/RenderPass.js'
import { UnrealBloomPass } from 'three/addons/postprocessing/UnrealBloomPass.js'

export function createBloom(renderer: WebGLRenderer, scene: Scene, camera: Camera, samples: number) {
  const size = new Vector2(1, 1)
  let made: { composer: EffectComposer; spill: UnrealBloomPass } | null = null
  let drawn = ''
  function make() {
    const composer = new EffectComposer(
      renderer,
      new WebGLRenderTarget(1, 1, { type: HalfFloatType, samples }),
    )
    const spill = new UnrealBloomPass(size, 1, 1, 1)
    for (const pass of [new RenderPass(scene, camera), spill, new OutputPass()]) composer.addPass(pass)
    return { composer, spill }
  }
  return {
    render({ strength, radius, threshold }: Shot['stage']['bloom']): void {
      const { composer, spill } = (made ??= make())
      renderer.getSize(size)
      const now = `${size.x} ${size.y} ${renderer.getPixelRatio()}`
      if (now !== drawn) {
        composer.setPixelRatio(renderer.getPixelRatio())
        composer.setSize(size.x, size.y)
        drawn = now
      }
      Object.assign(spill, { strength, radius, threshold })
      composer.render()
    },
    dispose: (): void => made?.composer.dispose(),
  }
}
