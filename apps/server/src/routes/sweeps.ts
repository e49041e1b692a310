/** Sweeps: many takes of a shot, in which some of its values are varied. */
import type Router from '@koa/router'
import { readShot, variableValues, type Shot } from '@tangle/core'
import { randomUUID } from 'node:crypto'
import * as yup from 'yup'
import { HttpFault } from '../fault.ts'
import type { Varied } from '../store/entities.ts'
import { toldOf } from '../store/told.ts'
import { bodyOf, idOf, type House } from './context.ts'
import { versionNumber } from './shots.ts'
import { addTake, lockedShot } from './takes.ts'

/** Values that are varied at once, besides the seed, and takes of a sweep. */
const MOST_AXES = 4
export const MOST_TAKES = 100

export const newSweep = yup
  .object({
    version: versionNumber.typeError('must be the version of the shot'),
    axes: yup
      .array(
        yup
          .object({
            path: yup
              .array(yup.mixed<string | number>().required())
              .required('is missing: where the value is')
              .min(1),
            values: yup
              .array(yup.number().typeError('must be numbers').required())
              .required('is missing: what the value is to be')
              .min(1, 'must have at least one value'),
          })
          .noUnknown(),
      )
      .required('is missing: what is to be varied')
      .min(1, 'must vary something')
      .max(MOST_AXES, `must vary at most ${MOST_AXES} values`),
  })
  .noUnknown()

interface Axis {
  path: Varied['path']
  values: number[]
}

export function sweepRoutes(router: Router, house: House): void {
  const { source } = house
  router.post('/shots/:id/sweeps', async (context) => {
    const shotId = idOf(context, 'shot')
    const { version, axes } = bodyOf(context, newSweep)
    const sweep = randomUUID()
    await source.transaction(async (manager) => {
      const shot = await lockedShot(manager, shotId, version)
      for (const varied of combinations(shot.document, axes as Axis[]))
        await addTake(manager, house, shot, { document: withValues(shot.document, varied), sweep, varied })
    })
    context.status = 201
    context.body = { sweep, takes: (await toldOf(source, shotId)).filter((take) => take.sweep === sweep) }
  })
}

/** Every value of the first axis with every one of the second, and so on; the last one goes round first. */
function combinations(shot: Shot, axes: Axis[]): Varied[][] {
  const known = variableValues(shot)
  const count = axes.reduce((product, { values }) => product * values.length, 1)
  if (count > MOST_TAKES)
    throw new HttpFault(422, 'many', `These are ${count} takes: a sweep has at most ${MOST_TAKES}`)
  const places = axes.map(({ path }) => JSON.stringify(path))
  return axes.reduce<Varied[][]>(
    (rows, { path, values }, n) => {
      const found = known.find((one) => JSON.stringify(one.path) === places[n])
      if (!found)
        throw new HttpFault(
          422,
          'path',
          `axes[${n}].path: there is no single number at ${path.join('.')} in this shot`,
        )
      if (places.indexOf(places[n]!) < n)
        throw new HttpFault(422, 'twice', `axes[${n}].path: ${found.name} is varied already`)
      return rows.flatMap((row) => values.map((value) => [...row, { path, name: found.name, value }]))
    },
    [[]],
  )
}

/** The shot with those values, checked as any document is. */
function withValues(shot: Shot, varied: Varied[]): Shot {
  const document = structuredClone(shot)
  for (const { path, value } of varied) {
    const holder = path
      .slice(0, -1)
      .reduce<unknown>((at, key) => (at as Record<string, unknown>)[key], document)
    ;(holder as Record<string, unknown>)[path.at(-1)!] = value
  }
  const { shot: read, problems } = readShot(document)
  if (!read) {
    const what = varied.map(({ name, value }) => `${name} = ${value}`).join(', ')
    throw new HttpFault(422, 'invalid', `${what}: ${problems.map((p) => p.message).join('; ')}`, problems)
  }
  return read
}
