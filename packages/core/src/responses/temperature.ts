import { read, type ResponseKind } from './response.ts'

export const temperature: ResponseKind = {
  from: 'temperature',
  label: 'temperature',
  unit: '°C',
  usual: [0, 100],
  attributes: ['temperature'],
  write: read(() => ({ of: 'temperature' })),
}
