/**
 * What a whole says of its particles from what its slices say: numbers are summed, extremes are those of all. A median or percentile is the mean of the
 * slices', by how many each has: they are alike, as ids are dealt out evenly. Overlaps between slices are not known.
 */
import type { GoalMeasures, Measures, PopulationMeasures } from './measures.ts'
import type { TemperatureMeasures } from './temperature.ts'

export function joinMeasures(slices: Measures[]): Measures {
  const [first] = slices as [Measures]
  if (slices.length === 1) return first
  return {
    populations: first.populations.map((_, n) => joinPopulation(slices.map((one) => one.populations[n]!))),
    meshes: first.meshes,
    cuts: first.cuts ?? [],
    seen: first.seen ?? [],
    covers: first.covers,
    milliseconds: summed(slices.map((one) => one.milliseconds)),
  }
}

function joinPopulation(slices: PopulationMeasures[]): PopulationMeasures {
  const [first] = slices as [PopulationMeasures]
  const counts = slices.map(({ alive }) => alive)
  const contacts = slices.flatMap(({ contact }) => contact ?? [])
  return {
    id: first.id,
    alive: total(counts),
    phases: summed(slices.map(({ phases }) => phases)),
    born: total(slices.map(({ born }) => born)),
    died: total(slices.map(({ died }) => died)),
    speed: {
      median: mean(slices.map(({ speed }) => speed.median), counts),
      high: mean(slices.map(({ speed }) => speed.high), counts),
      most: Math.max(...slices.map(({ speed }) => speed.most)),
    }, // prettier-ignore
    astray: total(slices.map(({ astray }) => astray)),
    goals: first.goals.map((_, k) => joinGoal(slices.map(({ goals }) => goals[k]!))),
    overlaps: null,
    contact:
      contacts.length === 0
        ? null
        : {
            inside: total(contacts.map(({ inside }) => inside)),
            worst: Math.max(...contacts.map(({ worst }) => worst)),
            asleep: total(contacts.map(({ asleep }) => asleep)),
          },
    links: null,
    bonds: null,
    pieces: null,
    liquid: null,
    temperature: joinTemperature(slices),
    strays: (first.strays ?? []).map(({ id }, k) => ({
      id,
      following: total(slices.map(({ strays }) => strays![k]!.following)),
      strayed: total(slices.map(({ strays }) => strays![k]!.strayed)),
    })),
    energy: summed(slices.map(({ energy }) => energy)),
    events: summed(slices.map(({ events }) => events)),
    attributes: Object.fromEntries(
      Object.keys(first.attributes).map((id) => {
        const of = (part: 'low' | 'median' | 'high'): number =>
          mean(slices.map(({ attributes }) => attributes[id]![part]), counts) // prettier-ignore
        return [id, { low: of('low'), median: of('median'), high: of('high') }]
      }),
    ),
  }
}

function joinTemperature(slices: PopulationMeasures[]): TemperatureMeasures | null {
  const found = slices.flatMap(({ temperature, alive }) => (temperature ? [{ ...temperature, alive }] : []))
  if (found.length === 0) return null
  return {
    coldest: Math.min(...found.map(({ coldest }) => coldest)),
    mean: mean(found.map((one) => one.mean), found.map(({ alive }) => alive)),
    warmest: Math.max(...found.map(({ warmest }) => warmest)),
  } // prettier-ignore
}

function joinGoal(slices: GoalMeasures[]): GoalMeasures {
  const counts = slices.map(({ paired }) => paired)
  return {
    id: slices[0]!.id,
    paired: total(counts),
    median: mean(slices.map(({ median }) => median), counts),
    high: mean(slices.map(({ high }) => high), counts),
    most: Math.max(...slices.map(({ most }) => most)),
    arrived: total(slices.map(({ arrived }) => arrived)),
  } // prettier-ignore
}

const total = (numbers: number[]): number => numbers.reduce((sum, one) => sum + one, 0)

function mean(values: number[], counts: number[]): number {
  const all = total(counts)
  return all === 0 ? 0 : total(values.map((value, k) => value * counts[k]!)) / all
}

/** Numbers by name, summed name by name. */
function summed<Row extends object>(rows: Row[]): Row {
  const out: Record<string, number> = {}
  for (const row of rows)
    for (const [name, value] of Object.entries(row) as [string, number][])
      out[name] = (out[name] ?? 0) + value
  return out as Row
}
