/** A recipe: particles that are born on one mesh become another. */
import {
  completeCue,
  completeInfluence,
  completeMask,
  INFLUENCES,
  MASKS,
  type Amount,
  type Goal,
  type Influence,
  type Mask,
  type Population,
  type Response,
  type Shot,
  type ShotMesh,
  vectorAt,
  freshId,
} from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { mended } from '../store/shot.ts'
import { within } from './within.ts'

/** Diagonal of a mesh in the world, metres. */
function sizeOf(mesh: ShotMesh | undefined, frame: number): number {
  const facts = mesh && engine.meshOf(mesh.source)?.facts
  if (!facts) return 1
  const scale = vectorAt(mesh.place.scale, frame)
  return Math.hypot(...scale.map((s, axis) => (facts.high[axis]! - facts.low[axis]!) * s))
}
/** From where one mesh stands to where another does, metres. */
function apart(a: ShotMesh | undefined, b: ShotMesh | undefined, frame: number): number {
  if (!a || !b) return 0
  const to = vectorAt(b.place.position, frame)
  return Math.hypot(...vectorAt(a.place.position, frame).map((from, axis) => to[axis]! - from))
}
const round = (x: number): number => Number(x.toPrecision(2))

const [HELD, GOING] = ['Held', 'Going']

/**
 * Held where they are born, they are let go as a noise mask grows, stray on the way and settle at the goal; all
 * by the middle of the shot.
 */
export function makeMorph(population: Population, index: number, goal: Goal): void {
  const { frames, masks, meshes } = store.getState().shot.present
  const { first, last, rate } = frames
  const bornOn = meshes.find((one) => one.id === population.births[0]?.mesh)
  const target = meshes.find((one) => one.id === goal.mesh) ?? bornOn
  const size = sizeOf(target, first)
  const way = size + apart(bornOn, target, first)
  // those that are let go last have 0.6 of the time
  const speed = (way * 3.5) / Math.max(1, (last - first) / rate)
  const release = releaseMask(population, masks, frames, size)
  const amountOf = (amount: Amount): Amount => ('burst' in amount ? amount : { burst: 20000, at: first })
  const changed: Population = {
    ...population,
    phases: [HELD, GOING],
    particle: { ...population.particle, lifespan: null },
    births: population.births.map((birth) => ({ ...birth, into: HELD, amount: amountOf(birth.amount) })),
    cues: [
      completeCue({
        id: 'release',
        from: HELD,
        to: GOING,
        when: { kind: 'mask', mask: release.id, above: 0.5 },
      }),
    ],
    goals: population.goals.map((one) =>
      one.id === goal.id && one.pairing === 'random' ? { ...one, pairing: 'least' } : one,
    ),
    influences: journey(goal.id, size, speed),
  }
  store.dispatch(
    mended([
      { path: ['masks'], value: [...masks, release] },
      { path: ['populations', index], value: changed },
    ]),
  )
  store.dispatch(selected({ goal: null, influence: 'arrive' }))
  const text = `${population.name} now become ${goal.name}: tune it in the score`
  store.dispatch(noticed({ text, tone: 'info', undo: { kind: 'edit' } }))
}

const NOISE = MASKS.find(({ kind }) => kind === 'noise')!.parameters
/** Grows over all within the first 0.4 of the shot. */
function releaseMask(
  { name }: Population,
  masks: Mask[],
  { first, last }: Shot['frames'],
  size: number,
): Mask {
  const all = Math.max(first + 1, Math.round(first + (last - first) * 0.4))
  return completeMask({
    id: freshId('release', masks.map((mask) => mask.id)), // prettier-ignore
    name: `Release of ${name}`,
    kind: 'noise',
    ...within(NOISE, { scale: round(size / 3) }),
    level: { keys: [[first, 1, 'linear'], [all, -0.2]] }, // prettier-ignore
  } as Partial<Mask> & Pick<Mask, 'id' | 'kind'>)
}

const parametersOf = (kind: string) => INFLUENCES.find((one) => one.kind === kind)!.parameters

/** What leads them to the goal: turbulence that dies away near it, arrive, and settle at last. */
function journey(goal: string, size: number, speed: number): Influence[] {
  const act = (kind: string, phase: string, more: Record<string, unknown> = {}): Influence =>
    completeInfluence({ id: kind, kind, weights: { [phase]: 1 }, ...within(parametersOf(kind), more) }, [
      HELD,
      GOING,
    ])
  const nearer: Response = {
    to: 'strength',
    from: 'goal',
    goal,
    curve: [[0, 0, 'smooth'], [round(size / 2), 1]], // prettier-ignore
  }
  return [
    act('ride', HELD),
    act('turbulence', GOING, { strength: round(size * 1.5), scale: round(size / 3), responses: [nearer] }),
    act('arrive', GOING, { goal, speed: round(speed), slowing: round(size / 2) }),
    act('settle', GOING, { goal, within: round(size / 8), halfLife: 0.2 }),
  ]
}
