import type { Population } from '@tangle/core'
import { useShot, useStore } from '../store/index.ts'

/** The selected population, or the first, with its place in the document. */
export function usePopulation(): { population: Population | undefined; index: number } {
  const { populations } = useShot()
  const id = useStore((state) => state.session.selected.population)
  const index = Math.max(0, populations.findIndex((p) => p.id === id))
  return { population: populations[index], index }
}
