import { read, type ResponseKind } from './response.ts'

export const age: ResponseKind = {
  from: 'age',
  label: 'age',
  unit: 'of life',
  usual: [0, 1],
  // who lives to the end of the shot never ages
  write: read(({ ahead }) => ({ of: 'age', plus: ahead, over: 'lifespan', least: 0 })),
}
