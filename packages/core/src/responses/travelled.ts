import { read, type ResponseKind } from './response.ts'

export const travelled: ResponseKind = {
  from: 'travelled',
  label: 'distance travelled',
  unit: 'm',
  usual: [0, 3],
  attributes: ['travelled'],
  write: read(() => ({ of: 'travelled' })),
}
