import type { ResponseKind } from './response.ts'

export const mask: ResponseKind = {
  from: 'mask',
  label: 'a mask',
  unit: '',
  usual: [0, 1],
  needs: 'mask',
  write(_, { columns, masks, from }, { mask }, pointer) {
    const { anchor, anchorAt, position } = columns.at
    const anchors = anchor ? { anchors: { anchor, at: anchorAt } } : {}
    // the schema sees to it that the mask is named
    masks.write(mask!, { count: columns.count, positions: position, frame: from, ...anchors }, pointer)
  },
}
