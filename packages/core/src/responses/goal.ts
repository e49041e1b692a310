import type { ResponseKind } from './response.ts'

export const goal: ResponseKind = {
  from: 'goal',
  label: 'distance to a goal, or its place on the mesh',
  unit: 'm',
  usual: [0, 2],
  attributes: ['anchor', 'anchorAt'],
  offers: 'goal',
  write(out, { machine, columns, targets }, { goal }, pointer) {
    const { on, from } = targets(goal)
    const { position } = columns.at
    machine.run('goalDistances', columns.count, { goal: on, position, at: from, out: pointer })
    for (let i = 0; i < out.length; i++) if (out[i]! < 0) out[i] = 0
  },
}
