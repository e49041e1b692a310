import { storedBytes, type Shot } from '@tangle/core'

/** What the preview has of a frame: how many of each population are alive, and how long it took. */
export interface PreviewedFrame {
  alive: Record<string, number>
  milliseconds: number
}
export interface Estimate {
  frames: number
  bytes: number
  /** Of computing, on this machine. */
  seconds: number
}

/**
 * What a take of the shot will be, from frames of the preview that lie evenly among its first `known` ones; what comes after them counts as the last one. Null: nothing has been
 * previewed yet.
 */
export function estimateOf(shot: Shot, previewed: PreviewedFrame[], known: number): Estimate | null {
  const last = previewed.at(-1)
  if (!last) return null
  const { frames, quality, populations } = shot
  const share = quality.previewShare
  const bytesIn = ({ alive }: PreviewedFrame): number =>
    populations.reduce((sum, one) => sum + ((alive[one.id] ?? 0) / share) * storedBytes(one), 0)
  const all = frames.last - frames.first + 1
  const total = (of: (frame: PreviewedFrame) => number): number =>
    (previewed.reduce((sum, frame) => sum + of(frame), 0) / previewed.length) * known +
    of(last) * (all - known)
  return {
    frames: all,
    bytes: total(bytesIn),
    seconds: total(({ milliseconds }) => milliseconds / share) / 1000,
  }
}

/** "0.5, 1, 2" or "0.5 to 2 in 4" as numbers; a sentence where it can't be read. */
export function valuesIn(text: string): number[] | string {
  const range = /^\s*(\S+)\s+to\s+(\S+)\s+in\s+(\S+)\s*$/.exec(text)
  if (range) {
    const [from, to, count] = range.slice(1).map(Number) as [number, number, number]
    if (![from, to].every(Number.isFinite) || !Number.isInteger(count) || count < 2 || count > 100)
      return 'write it as in "0.5 to 2 in 4"'
    return Array.from({ length: count }, (_, k) => tidy(from + ((to - from) * k) / (count - 1)))
  }
  const words = text.split(/[,;\s]+/).filter(Boolean)
  if (words.length === 0) return 'write some values, as in "0.5, 1, 2" or "0.5 to 2 in 4"'
  const wrong = words.find((word) => !Number.isFinite(Number(word)))
  if (wrong !== undefined) return `"${wrong}" is no number`
  return [...new Set(words.map(Number))]
}
const tidy = (x: number): number => Number(x.toPrecision(7))
