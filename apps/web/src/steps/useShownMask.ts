import type { Mask, Vector } from '@tangle/core'
import type { CutPlane } from '@tangle/runtime/browser'
import { useEffect, useMemo } from 'react'
import { engine } from '../engine/engine.ts'
import { stage } from '../stage/Stage.tsx'
import { useShot, useStore } from '../store/index.ts'
import { isPainted } from './maskKinds.ts'
import { withInputOff } from './masks.ts'
import { useBrush } from './useBrush.ts'

/** Shows a mask on the stage while the Masks step is open, and lets the pointer paint it. */
export function useShownMask(mask: Mask | undefined): void {
  const shot = useShot()
  const { off, plane, planeAt } = useStore((state) => state.session.masks)
  const compared = off !== null && mask && maskHas(mask, off) ? off : null
  const variant = useMemo(
    () => (mask && compared !== null ? withInputOff(shot, mask.id, compared) : null),
    [shot, mask, compared],
  )
  useEffect(() => {
    engine.showHeat(mask ? { mask: mask.id, variant, plane: cutPlane(plane, planeAt) } : null)
  }, [mask, variant, plane, planeAt])
  useEffect(() => () => engine.showHeat(null), [])
  usePainting(mask)
}

const maskHas = (mask: Mask, input: string): boolean => input in mask

function cutPlane(axis: 'none' | 'x' | 'y' | 'z', at: number): CutPlane | null {
  if (axis === 'none' || !stage.world) return null
  const { centre, reach } = stage.world.extent()
  const size = reach * 1.25
  const k = 'xyz'.indexOf(axis)
  const side = (n: number): Vector => [0, 1, 2].map((i) => (i === n ? size : 0)) as Vector
  const middle = centre.map((c, i) => (i === k ? c + at * reach : c)) as Vector
  return { centre: middle, across: side(k === 0 ? 2 : 0), up: side(k === 1 ? 2 : 1) }
}

function usePainting(mask: Mask | undefined): void {
  const index = useShot().masks.findIndex((one) => one === mask)
  const { brush, radius, strength, painting } = useStore((state) => state.session.masks)
  useBrush(painting && mask && isPainted(mask) ? mask : null, ['masks', index, 'strokes'], {
    brush,
    radius,
    strength,
  })
}
