import { words } from '../state/columns.ts'
import type { ResponseKind } from './response.ts'

export const mask: ResponseKind = {
  from: 'mask',
  label: 'a mask',
  unit: '',
  usual: [0, 1],
  needs: 'mask',
  attributes: ['anchor', 'anchorAt'],
  write(_, { columns, masks, from, rides }, { mask }, pointer) {
    const { anchor, anchorAt: at, position } = columns.at
    const phase = words(columns, 'phase')
    const isHeld = (i: number): boolean => rides[phase[i]!] ?? false
    const anchors = anchor ? { anchors: { anchor, at, isHeld } } : {}
    // the schema sees to it that the mask is named
    masks.write(mask!, { count: columns.count, positions: position, frame: from, ...anchors }, pointer) // prettier-ignore
  },
}
