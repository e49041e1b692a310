/** Takes in words. */
import type { Take } from '../store/api.ts'
import { duration } from '../words.ts'

export const isUnderWay = ({ status }: Take): boolean => status === 'waiting' || status === 'computing'
export const framesOf = ({ frames }: Take): number => frames.last - frames.first + 1

/** The end of a long name: "Dust · Turbulence · speed" is "Turbulence · speed". */
export const shortName = (name: string): string => name.split(' · ').slice(-2).join(' · ')
const lastOf = (name: string): string => name.split(' · ').at(-1)!
/** What a take of a sweep has made of its values, by as much of their names as tells them apart. */
export const variedIn = ({ varied }: Pick<Take, 'varied'>): string =>
  (varied ?? [])
    .map(({ name, value }, n, all) => {
      const alike = all.some((other, k) => k !== n && lastOf(other.name) === lastOf(name))
      return `${alike ? shortName(name) : lastOf(name)} ${Number(value.toPrecision(4))}`
    })
    .join(', ')

/** How far a take is, and how long it will need. */
export function progressOf(take: Take): string {
  const { status, framesDone, millisecondsPerFrame, host, slices } = take
  const all = framesOf(take)
  if (status === 'waiting')
    return framesDone > 0
      ? `waits for a worker, ${framesDone} of ${all} frames are there`
      : 'waits for a worker'
  const split = slices > 1 ? ` · in ${slices} slices` : ''
  const far = `${framesDone} of ${all} frames${split}`
  if (status === 'paused') return far
  if (framesDone < 2 || millisecondsPerFrame === null) return host ? `${far} · on ${host}` : far
  const each =
    millisecondsPerFrame < 1000
      ? `${Math.round(millisecondsPerFrame)} ms`
      : `${(millisecondsPerFrame / 1000).toFixed(1)} s`
  const left = duration((millisecondsPerFrame / 1000) * (all - framesDone))
  return `${far} · ${each} each · ${left} left`
}
