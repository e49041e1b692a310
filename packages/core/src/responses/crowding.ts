import type { ResponseKind } from './response.ts'

/** Metres within which others count. */
const REACH = 2

/** How many others of all populations there are about it, per m² of ground: what slows people down (Weidmann 1993). */
export const crowding: ResponseKind = {
  from: 'crowding',
  label: 'crowding, of all populations',
  unit: '1/m²',
  usual: [0, 5.4],
  interacts: true,
  write(out, { machine, columns, others, neighbours }, _, pointer) {
    out.fill(0)
    for (const of of others) {
      const seen = neighbours(REACH, 64, of)
      if (!seen) continue
      const { position } = columns.at
      machine.run('crowding', columns.count, { ...seen, position, reach: REACH, out: pointer })
    }
  },
}
