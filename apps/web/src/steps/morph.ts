/** A recipe: particles that are born on one mesh become another. */
import {
  completeCue,
  completeInfluence,
  completeMask,
  type Goal,
  type Influence,
  type Mask,
  type Population,
  type ShotMesh,
  vectorAt,
} from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { mended } from '../store/shot.ts'
import { freshId } from '../words.ts'

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

/**
 * Held where they are born, they are let go as a noise mask grows, stray on the way and settle at the goal; all
 * by the middle of the shot.
 */
export function makeMorph(population: Population, index: number, goal: Goal): void {
  const { frames, masks, meshes } = store.getState().shot.present
  const { first, last } = frames
  const bornOn = meshes.find((one) => one.id === population.births[0]?.mesh)
  const target = meshes.find((one) => one.id === goal.mesh) ?? bornOn
  const size = sizeOf(target, first)
  const way = size + apart(bornOn, target, first)
  const [held, going] = ['Held', 'Going']
  const seconds = Math.max(1, (last - first) / frames.rate)
  const maskId = freshId(
    'release',
    masks.map((mask) => mask.id),
  )
  const release = completeMask({
    id: maskId,
    name: `Release of ${population.name}`,
    kind: 'noise',
    scale: round(size / 3),
    level: { keys: [[first, 1, 'linear'], [Math.round(first + (last - first) * 0.4), -0.2]] }, // prettier-ignore
  } as Partial<Mask> & Pick<Mask, 'id' | 'kind'>)
  const act = (kind: string, weights: Record<string, number>, more: object): Influence =>
    completeInfluence({ id: kind, kind, weights, ...more }, [held, going])
  const influences = [
    act('ride', { [held]: 1 }, {}),
    act(
      'turbulence',
      { [going]: 1 },
      {
        strength: round(size * 1.5),
        scale: round(size / 3),
        responses: [{ to: 'strength', from: 'goal', goal: goal.id, curve: [[0, 0, 'smooth'], [round(size / 2), 1]] }], // prettier-ignore
      },
    ),
    act(
      'arrive',
      { [going]: 1 },
      {
        goal: goal.id,
        // those that are let go last have 0.6 of the time
        speed: round((way * 3.5) / seconds),
        slowing: round(size / 2),
      },
    ),
    act('settle', { [going]: 1 }, { goal: goal.id, within: round(size / 8), halfLife: 0.2 }),
  ]
  const changed: Population = {
    ...population,
    phases: [held, going],
    particle: { ...population.particle, lifespan: null },
    births: population.births.map((birth) => ({
      ...birth,
      into: held,
      amount: 'burst' in birth.amount ? birth.amount : { burst: 20000, at: first },
    })),
    cues: [
      completeCue({ id: 'release', from: held, to: going, when: { kind: 'mask', mask: maskId, above: 0.5 } }),
    ],
    goals: population.goals.map((one) =>
      one.id === goal.id && one.pairing === 'random' ? { ...one, pairing: 'least' } : one,
    ),
    influences,
  }
  store.dispatch(
    mended([
      { path: ['masks'], value: [...masks, release] },
      { path: ['populations', index], value: changed },
    ]),
  )
  store.dispatch(selected({ goal: null, influence: 'arrive' }))
  store.dispatch(
    noticed({
      text: `${population.name} now become ${goal.name}: tune it in the score`,
      tone: 'info',
      undo: { kind: 'edit' },
    }),
  )
}
