import { floats } from '../state/columns.ts'
import type { ResponseKind } from './response.ts'

export const speed: ResponseKind = {
  from: 'speed',
  label: 'speed',
  unit: 'm/s',
  usual: [0, 5],
  write(out, { columns }) {
    const v = floats(columns, 'velocity')
    for (let i = 0; i < out.length; i++)
      out[i] = Math.sqrt(v[i * 3]! ** 2 + v[i * 3 + 1]! ** 2 + v[i * 3 + 2]! ** 2)
  },
}
