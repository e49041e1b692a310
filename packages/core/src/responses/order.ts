import { each, type ResponseKind } from './response.ts'

export const order: ResponseKind = {
  from: 'order',
  label: 'order of birth',
  unit: '',
  usual: [0, 10000],
  write: each((_, read) => {
    const id = read('id')
    return (i) => id[i]!
  }),
}
