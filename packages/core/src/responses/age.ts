import { each, type ResponseKind } from './response.ts'

export const age: ResponseKind = {
  from: 'age',
  label: 'age',
  unit: 'of life',
  usual: [0, 1],
  // who lives to the end of the shot never ages
  write: each(({ ahead }, read) => {
    const [age, lifespan] = [read('age'), read('lifespan')]
    return (i) => Math.max(0, (age[i]! + ahead) / lifespan[i]!)
  }),
}
