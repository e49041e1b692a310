import { each, type ResponseKind } from './response.ts'

export const mass: ResponseKind = {
  from: 'mass',
  label: 'mass',
  unit: 'kg',
  usual: [0, 0.01],
  write: each((_, read) => {
    const inverseMass = read('inverseMass')
    return (i) => 1 / inverseMass[i]!
  }),
}
