import type { BirthSample } from '@tangle/runtime/browser'
import { useEffect, useState } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { useShot, useStore } from '../store/index.ts'
import { usePopulation } from './usePopulation.ts'

/** The points that the selected birth gives, asked anew after every edit and move of the playhead. */
export function useBirthSample(active: boolean): BirthSample | null {
  const shot = useShot()
  const { population } = usePopulation()
  const chosen = useStore((state) => state.session.selected.birth)
  const open = population?.births.find((one) => one.id === chosen) ?? population?.births[0]
  // whoever is born of particles is seen where those go
  const birth = open?.from === undefined ? open : undefined
  const frame = useEngine((e) => (e.playing ? 0 : e.frame))
  const ready = useEngine(
    (e) => e.preview !== undefined && shot.meshes.every((mesh) => e.meshOf(mesh.source) !== undefined),
  )
  const [sample, setSample] = useState<BirthSample | null>(null)
  useEffect(() => {
    if (!active || !population || !birth || !ready || !engine.preview) return
    let current = true
    void engine.preview
      .sampleBirth(shot, population.id, birth.id, frame || engine.frame)
      .then((next) => current && setSample(next))
    return () => {
      current = false
    }
  }, [active, shot, population, birth, frame, ready])
  return active && birth ? sample : null
}
