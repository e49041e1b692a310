/** Entries of documents, their numbers rounded and brought into the ranges of their kinds. */
import { BIRTHS, INFLUENCES, MASKS, MATERIALS, type Ease, type Parameters } from '@tangle/core'
import type { Loose } from './recipe.ts'

/** A number that reads well. */
export const tidy = (x: number): number => Number(x.toPrecision(3))

/** A place, metres: also far from the origin to a small part of what stands there. */
export const exact = (x: number): number => Number(x.toPrecision(7))

/** Keys over frames: [frame, value, ease?]. */
export const keys = (...list: [frame: number, value: number, ease?: Ease][]): Loose => ({
  keys: list.map(([frame, value, ...ease]) => [frame, exact(value), ...ease]),
})

/** Metres that may be below 0 are a place, others a size. */
const rounded = ({ unit, range }: { unit: string; range: [number, number] }, value: number): number =>
  unit === 'm' && range[0] < 0 ? exact(value) : tidy(value)

function fitting(parameters: Parameters, values: Loose): Loose {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => {
      const parameter = parameters[name]
      if (typeof value === 'number' && parameter && 'range' in parameter)
        return [name, Math.min(parameter.range[1], Math.max(parameter.range[0], rounded(parameter, value)))]
      if (Array.isArray(value) && parameter?.type === 'vector')
        return [name, value.map((x: unknown) => (typeof x === 'number' ? exact(x) : x))]
      return [name, value]
    }),
  )
}
const entry =
  (kinds: { kind: string; parameters: Parameters }[]) =>
  (kind: string, values: Loose): Loose => ({
    kind,
    ...fitting(kinds.find((one) => one.kind === kind)!.parameters, values),
  })

const influenceOf = entry(INFLUENCES)

/** An influence that acts in some phases by a weight. Its id is its kind unless it is given one. */
export const acts = (kind: string, phases: string[], values: Loose = {}, weight = 1): Loose => ({
  id: kind,
  weights: Object.fromEntries(phases.map((phase) => [phase, Number(weight.toPrecision(2))])),
  ...influenceOf(kind, values),
})
export const mask = (id: string, kind: string, name: string, values: Loose): Loose => ({
  id,
  name,
  ...entry(MASKS)(kind, values),
})
export const birth = (id: string, kind: string, into: string, values: Loose): Loose => ({
  id,
  into,
  ...entry(BIRTHS)(kind, values),
})
export const cue = (id: string, from: string, to: string, when: Loose): Loose => ({ id, from, to, when })

/** A response of a parameter to what a particle is. */
export const response = (
  to: string,
  from: string,
  curve: [x: number, y: number, ease?: Ease][],
  more: Loose = {},
): Loose => ({
  to,
  from,
  curve: curve.map(([x, y, ...ease]) => [tidy(x), y, ...ease]),
  ...more,
})

/** Each has a colour of its own from a ramp, by chance. */
export const tinted = (phases: string[], ...stops: [at: number, colour: string][]): Loose =>
  acts('colour', phases, {
    id: 'colours',
    name: 'Colours',
    ramp: { stops },
    responses: [response('at', 'random', [[0, 0], [1, 1]])], // prettier-ignore
  })
/** A look of that colour. */
export const OWN_COLOUR = { from: 'own', range: [0, 1], ramp: 'snow' }

/** Grains on a grid so far apart that fills a mesh, none of which touches its surface. */
export const gridFill = (into: string, mesh: string, spacing: number, at: number): Loose =>
  birth('fill', 'volume', into, {
    mesh,
    amount: { burst: 'all', at },
    fill: 'grid',
    spacing,
    margin: spacing * 0.5,
  })

/** Density of a material, kg/m³. */
export const densityOf = (material: string): number => MATERIALS.find(({ id }) => id === material)!.density

/** Particles of one radius, or of radii that vary by a share of it. */
export const particle = (radius: number, spread: number, density: number, lifespan: Loose | null): Loose => ({
  radius: { mean: tidy(Math.max(1e-6, radius)), spread },
  density,
  lifespan,
  // no bound that a large thing would meet
  speedLimit: tidy(Math.max(200, 2e4 * radius)),
})
