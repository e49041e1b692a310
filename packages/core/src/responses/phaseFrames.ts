import { each, type ResponseKind } from './response.ts'

export const phaseFrames: ResponseKind = {
  from: 'phaseFrames',
  label: 'frames in the phase',
  unit: 'frames',
  usual: [0, 48],
  write: each(({ ahead, rate }, read) => {
    const phaseAge = read('phaseAge')
    return (i) => Math.max(0, (phaseAge[i]! + ahead) * rate)
  }),
}
