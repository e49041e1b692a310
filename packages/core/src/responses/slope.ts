import { arctangent } from '../math/functions.ts'
import { each, type ResponseKind } from './response.ts'

export const slope: ResponseKind = {
  from: 'slope',
  label: 'slope of what it touches',
  unit: '°',
  usual: [0, 90],
  attributes: ['contactNormal'],
  // nothing is touched, or was in the last substep: 0
  write: each((_, read) => {
    const n = read('contactNormal')
    return (i) => {
      const across = Math.sqrt(n[i * 3]! ** 2 + n[i * 3 + 2]! ** 2)
      const up = n[i * 3 + 1]!
      const angle = up === 0 ? (across > 0 ? Math.PI / 2 : 0) : arctangent(across / Math.abs(up))
      return ((up < 0 ? Math.PI - angle : angle) * 180) / Math.PI
    }
  }),
}
