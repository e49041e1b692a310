import { read, type ResponseKind } from './response.ts'

export const frames: ResponseKind = {
  from: 'frames',
  label: 'age in frames',
  unit: 'frames',
  usual: [0, 100],
  write: read(({ ahead, rate }) => ({ of: 'age', plus: ahead, times: rate, least: 0 })),
}
