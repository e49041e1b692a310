import { each, type ResponseKind } from './response.ts'

export const speed: ResponseKind = {
  from: 'speed',
  label: 'speed',
  unit: 'm/s',
  usual: [0, 5],
  write: each((_, read) => {
    const v = read('velocity')
    return (i) => Math.sqrt(v[i * 3]! ** 2 + v[i * 3 + 1]! ** 2 + v[i * 3 + 2]! ** 2)
  }),
}
