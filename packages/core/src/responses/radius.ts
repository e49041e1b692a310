import { read, type ResponseKind } from './response.ts'

export const radius: ResponseKind = {
  from: 'radius',
  label: 'radius',
  unit: 'm',
  usual: [0, 0.05],
  write: read(() => ({ of: 'radius' })),
}
