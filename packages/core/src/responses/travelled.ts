import { each, type ResponseKind } from './response.ts'

export const travelled: ResponseKind = {
  from: 'travelled',
  label: 'distance travelled',
  unit: 'm',
  usual: [0, 3],
  attributes: ['travelled'],
  write: each((_, read) => {
    const travelled = read('travelled')
    return (i) => travelled[i]!
  }),
}
