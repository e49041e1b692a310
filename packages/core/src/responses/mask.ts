import { anchorsOfRiders } from '../state/riders.ts'
import type { ResponseKind } from './response.ts'

export const mask: ResponseKind = {
  from: 'mask',
  label: 'a mask',
  unit: '',
  usual: [0, 1],
  needs: 'mask',
  write(_, { columns, masks, from, rides }, { mask }, pointer) {
    const held = anchorsOfRiders(columns, rides)
    const anchors = held ? { anchors: held.anchors } : {}
    // the schema sees to it that the mask is named
    masks.write(mask!, { count: columns.count, positions: columns.at.position, frame: from, ...anchors }, pointer) // prettier-ignore
    held?.free()
  },
}
