/** Which populations descend from which. */
import type { Population } from '../document/types.ts'

/** Whether a population descends from another, by however many between them; from itself, where some generation does. */
export function descendsFrom(id: string, ancestor: string, populations: Population[]): boolean {
  const seen = new Set<string>()
  const waiting = [id]
  for (const next of waiting) {
    for (const { from, muted } of populations.find((one) => one.id === next)?.births ?? []) {
      if (from === undefined || muted || seen.has(from)) continue
      if (from === ancestor) return true
      seen.add(from)
      waiting.push(from)
    }
  }
  return false
}
