import type { Influence, Population, Shot } from '@tangle/core'
import { useShot, useStore } from '../store/index.ts'

/** The selected population, or the first, with its place in the document. */
export function usePopulation(): { population: Population | undefined; index: number } {
  const { populations } = useShot()
  const id = useStore((state) => state.session.selected.population)
  const index = Math.max(
    0,
    populations.findIndex((p) => p.id === id),
  )
  return { population: populations[index], index }
}

/** What has an id is called, as a population sees it. */
export const nameIn =
  ({ meshes, masks, combings, populations }: Shot, { goals, attributes }: Population) =>
  (id: string): string =>
    [...goals, ...attributes, ...meshes, ...masks, ...combings, ...populations].find((one) => one.id === id)
      ?.name ?? id

/** The selected influence of a population, or its first. */
export function useInfluence(population: Population | undefined): Influence | undefined {
  const id = useStore((state) => state.session.selected.influence)
  return population?.influences.find((one) => one.id === id) ?? population?.influences[0]
}
