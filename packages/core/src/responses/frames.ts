import { each, type ResponseKind } from './response.ts'

export const frames: ResponseKind = {
  from: 'frames',
  label: 'age in frames',
  unit: 'frames',
  usual: [0, 100],
  write: each(({ ahead, rate }, read) => {
    const age = read('age')
    return (i) => Math.max(0, (age[i]! + ahead) * rate)
  }),
}
