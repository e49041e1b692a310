import { read, type ResponseKind } from './response.ts'

export const phaseFrames: ResponseKind = {
  from: 'phaseFrames',
  label: 'frames in the phase',
  unit: 'frames',
  usual: [0, 48],
  write: read(({ ahead, rate }) => ({ of: 'phaseAge', plus: ahead, times: rate, least: 0 })),
}
