import type { Shot } from '../document/types.ts'
import { seen } from '../masks/seen.ts'
import { maskReferences } from './references.ts'

/** Whether a mask asks what rays have seen, by itself or by another that it is made of. */
export function asksSeen({ masks }: Pick<Shot, 'masks'>, id: string): boolean {
  const asked = new Set([id])
  // masks that are found on the way are gone through, too
  for (const one of asked) {
    const mask = masks.find((other) => other.id === one)
    if (!mask) continue
    if (mask.kind === seen.kind) return true
    for (const { to, id: other } of maskReferences(mask)) if (to === 'mask') asked.add(other)
  }
  return false
}
