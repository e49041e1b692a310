import { read, type ResponseKind } from './response.ts'

const alongAxis = (from: string, axis: number, label: string): ResponseKind => ({
  from,
  label,
  unit: 'm',
  usual: [0, 2],
  write: read(() => ({ of: 'position', axis })),
})
export const alongX = alongAxis('x', 0, 'position x')
export const alongY = alongAxis('y', 1, 'height y')
export const alongZ = alongAxis('z', 2, 'position z')
