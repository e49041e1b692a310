import { MASKS, type Mask } from '@tangle/core'

export const maskKind = (mask: Pick<Mask, 'kind'>) => MASKS.find((kind) => kind.kind === mask.kind)!
/** Whether it is made by strokes of the brush. */
export const isPainted = (mask: Mask): boolean => 'strokes' in maskKind(mask).parameters
/** What strokes on it can do. */
export function paintBrushes(mask: Mask): Record<string, string> {
  const { strokes } = maskKind(mask).parameters
  return strokes?.type === 'strokes' ? strokes.brushes : {}
}
