import { RAMP_ENTRIES, rampTable, type RampChoice } from '@tangle/core'
import { DataTexture, FloatType, LinearFilter, RGBAFormat } from 'three'

/** A ramp that shaders read, linear RGB; made anew only when another ramp is shown. */
export function createRampTexture() {
  const data = new Float32Array(RAMP_ENTRIES * 4)
  const texture = new DataTexture(data, RAMP_ENTRIES, 1, RGBAFormat, FloatType)
  texture.minFilter = texture.magFilter = LinearFilter
  let shown: Float32Array | undefined
  return {
    texture,
    show(ramp: RampChoice): void {
      const table = rampTable(ramp)
      if (table === shown) return
      shown = table
      for (let i = 0; i < RAMP_ENTRIES; i++) data.set([...table.subarray(i * 3, i * 3 + 3), 1], i * 4)
      texture.needsUpdate = true
    },
    dispose: () => texture.dispose(),
  }
}
