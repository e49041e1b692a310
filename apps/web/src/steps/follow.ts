import {
  completeEaten,
  completePopulation,
  INFLUENCES,
  LOOK,
  type Mask,
  type Population,
  type Shot,
  freshId,
  freshName,
} from '@tangle/core'
import { stage } from '../stage/Stage.tsx'
import { store } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { inserted, mended } from '../store/shot.ts'
import { maskKind } from './maskKinds.ts'
import { within } from './within.ts'

/** The mesh that a mask lies on, or the first one. */
export const meshOfMask = (shot: Shot, mask: Mask) =>
  shot.meshes.find((mesh) => mesh.id === mask.mesh && maskKind(mask).onSurface) ?? shot.meshes[0]

/** Lets a mask eat its mesh: where the mask is full, the mesh is gone. */
export function eatByMask(mask: Mask): void {
  const shot = store.getState().shot.present
  const mesh = meshOfMask(shot, mask)
  if (!mesh) return
  const { reach } = stage.world?.extent() ?? { reach: 1 }
  const eaten = completeEaten({ mask: mask.id, thickness: round(reach / 80), crumble: round(reach / 100) })
  // what another mesh cuts is eaten instead: not both
  const path = ['meshes', shot.meshes.indexOf(mesh)]
  store.dispatch(
    mended([
      { path: [...path, 'eaten'], value: eaten },
      { path: [...path, 'cut'], value: null },
    ]),
  )
}

const round = (x: number): number => Number(x.toPrecision(2))

/**
 * Dust that is born exactly where a mask sweeps over its mesh, with what moves dust: air that takes it along,
 * swirls of two sizes, a little weight. Lengths and speeds go by the size of the mesh.
 */
export function dustFromMask(mask: Mask): void {
  const shot = store.getState().shot.present
  const mesh = meshOfMask(shot, mask)
  if (!mesh) return
  const { reach } = stage.world?.extent() ?? { reach: 1 }
  const name = freshName(
    'Dust',
    shot.populations.map((p) => p.name),
  )
  const act = (id: string, kind: string, more: Record<string, unknown>) => ({
    id,
    kind,
    ...within(INFLUENCES.find((one) => one.kind === kind)!.parameters, more),
  })
  const young = { to: 'strength', from: 'age', curve: [[0, 0.3, 'smooth'], [0.35, 1]] } // prettier-ignore
  const population = completePopulation({
    id: freshId(
      name,
      shot.populations.map((p) => p.id),
    ),
    name,
    phases: ['Loose'],
    particle: {
      radius: { mean: round(reach / 400), spread: 0.6 },
      sizes: 'even',
      density: 1200,
      lifespan: { mean: 60, spread: 24 },
      speedLimit: 200,
    },
    births: [
      {
        id: 'swept',
        kind: 'surface',
        mesh: mesh.id,
        into: 'Loose',
        amount: { swept: 200000, mask: mask.id },
        speed: round(reach / 40),
        speedSpread: 0.8,
        cone: 60,
      },
    ],
    influences: [
      act('gravity', 'gravity', { strength: round(Math.min(1, 0.01 * reach)) }),
      act('wind', 'wind', {
        speed: round(0.7 * reach),
        direction: [1, 0.2, -0.15],
        gusts: 0.7,
        gustSize: round(reach / 2),
        responses: [young],
      }),
      act('turbulence', 'turbulence', {
        strength: round(0.8 * reach),
        scale: round(reach / 3),
        octaves: 3,
        responses: [young],
      }),
      act('fine', 'turbulence', {
        name: 'Fine turbulence',
        strength: round(0.4 * reach),
        scale: round(reach / 16),
        change: 0.9,
      }),
      act('drag', 'drag', { strength: 0.8 }),
      act('shrink', 'size', { name: 'Shrink with age', responses: [{ to: 'size', from: 'age', curve: [[0.5, 1, 'smooth'], [1, 0.1]] }] }), // prettier-ignore
    ] as unknown as Population['influences'],
    look: { ...LOOK, colour: { from: 'travelled', range: [0, round(reach)], ramp: 'ember' } },
  })
  store.dispatch(inserted({ path: ['populations'], value: population }))
  store.dispatch(selected({ population: population.id, birth: 'swept', influence: null }))
}

/** What follows a mask, in words. */
export function followers(shot: Shot, mask: Mask): string[] {
  const names = (id: string): string => shot.meshes.find((mesh) => mesh.id === id)?.name ?? id
  return [
    ...shot.meshes
      .filter((mesh) => mesh.eaten?.mask === mask.id)
      .map((mesh) => `${mesh.name} is eaten by it`),
    ...shot.populations.flatMap((population) => [
      ...population.births
        .filter(
          (birth) => birth.density === mask.id || ('mask' in birth.amount && birth.amount.mask === mask.id),
        )
        .map((birth) => `${population.name} is born by it on ${names(birth.mesh ?? '')}`),
      ...population.cues
        .filter((cue) => cue.when.mask === mask.id)
        .map((cue) => `${population.name} goes from ${cue.from} to ${cue.to}`),
      ...population.influences
        .filter((influence) => influence.responses?.some((response) => response.mask === mask.id))
        .map((influence) => `${influence.name ?? influence.kind} responds to it`),
    ]),
    ...shot.masks
      .filter((one) => Object.values(one).includes(mask.id) && one !== mask)
      .map((one) => `${one.name} reads it`),
  ]
}
