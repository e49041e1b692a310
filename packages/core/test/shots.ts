/** Shots that together use nearly all of the solver: for tests that compare two ways of computing. */
import { loadRapier, INFLUENCES, RESPONSES, type Parameters, type Shot } from '../src/index.ts'
import { ASSET, acting, burst, shotOf } from './help.ts'

// some of them have rigid bodies
await loadRapier()

const both = { Held: 1, Loose: 1 }
const keys = (...values: number[][]) => ({ keys: values })

export const SHOTS: Record<string, () => Shot> = {
  'births by rate, deaths by age, size and cue': () =>
    shotOf({
      phases: ['Loose', 'Late'],
      particle: { radius: { mean: 0.03, spread: 0.5 }, lifespan: { mean: 9, spread: 6 } },
      births: [burst({ amount: { rate: 900 } })],
      cues: [
        {
          id: 'c',
          from: 'Loose',
          to: 'dies',
          when: { kind: 'after', frames: { mean: 6, spread: 3 } },
          chance: 0.4,
        },
      ],
      influences: [acting('turbulence', { strength: 8, scale: 0.7 }), acting('spin', {})],
    }),
  'two liquids, thick and thin, filled and poured into a box, and what floats in them': () => {
    const liquid = (id: string, density: number, viscosity: number, birth: object) => ({
      id,
      phases: ['Loose'],
      particle: { radius: 0.08, density },
      births: [{ id: 'l', mesh: 'box', into: 'Loose', ...birth }],
      influences: [
        acting('gravity'),
        acting('liquid', { viscosity, swirl: 0.2, tension: 2000 * viscosity, splashes: 40, splashSpeed: 0.3, responses: [{ to: 'weight', from: 'temperature', curve: [[20, 1], [90, 0.7]] }] }), // prettier-ignore
        acting('collide', { mesh: 'box', side: 'inside' }),
        acting('warmth', { born: viscosity * 20, pace: 1e5 }),
        acting('heat', { from: 'mesh', mesh: 'box', reach: 0.2 }),
      ],
    })
    return shotOf(
      {},
      {
        populations: [
          liquid('dust', 1000, 0.001, { kind: 'fill', level: 0.3, amount: { burst: 'all', at: 1 } }),
          liquid('oil', 800, 3, { kind: 'pour', width: 0.3, amount: { rate: 90 } }),
          {
            id: 'floats',
            phases: ['Loose'],
            particle: { radius: 0.07, density: 400 },
            births: [{ id: 'f', kind: 'region', into: 'Loose', mesh: 'box', amount: { burst: 12, at: 1 } }],
            influences: [
              acting('gravity'),
              acting('float'),
              acting('selfCollision'),
              acting('warmth', { born: 90 }),
            ],
          },
        ],
      },
    )
  },
  'children by the way, at deaths, by rays and at their hits, sized by what has been seen': () => {
    const small = { phases: ['Loose'], particle: { radius: 0.02, density: 1000, lifespan: 9 } }
    const of = (id: string, more: object) => ({ id, kind: 'particles', from: 'dust', into: 'Loose', ...more })
    return shotOf(
      {},
      {
        masks: [{ id: 'seen', kind: 'seen', mesh: 'box', soft: 0.4 }],
        populations: [
          {
            id: 'dust',
            ...small,
            births: [burst({ amount: { rate: 300 }, speed: 2 })],
            influences: [acting('gravity')],
          },
          {
            id: 'wake',
            ...small,
            births: [
              of('w', { amount: { spacing: 0.1 } }),
              of('d', { amount: { event: 'death', count: 2 }, speed: 1 }),
              of('r', { amount: { rate: 20 }, mesh: 'box', laid: 'ray', cone: 180, reach: 3 }),
              of('f', {
                amount: { rate: 9 },
                mesh: 'box',
                laid: 'ray',
                pattern: 'fan',
                cone: 60,
                aim: 'surface',
                blocked: 'all',
              }),
              of('h', { amount: { event: 'hit', count: 1 }, scatter: 0.1, speed: 1 }),
            ],
            influences: [
              acting('ride'),
              acting('drag'),
              acting('thin', { share: 0.9 }),
              acting('size', {
                responses: [
                  {
                    to: 'size',
                    from: 'mask',
                    mask: 'seen',
                    curve: [
                      [0, 0.5],
                      [1, 1],
                    ],
                  },
                ],
              }),
            ],
          },
        ],
      },
    )
  },
  'links that stretch, creep, break and are cut, while some die': () =>
    shotOf(
      {
        phases: ['Held', 'Loose'],
        particle: { radius: { mean: 0.06, spread: 0.2 }, density: 1000, lifespan: { mean: 22, spread: 14 } },
        births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.13, amount: { burst: 'all', at: 1 } })],
        influences: [
          acting('gravity'),
          acting('selfCollision'),
          acting('link', { to: 'grid', stiffness: 0.7, breaks: 0.06, creep: 0.3 }),
          acting('floor', { height: -0.8 }),
        ],
      },
      { quality: { substeps: 3, iterations: 3 } },
    ),
  'a heap that goes to sleep on a slope, sorted by the slope it lies on': () =>
    shotOf(
      {
        births: [
          burst({ amount: { rate: 1500, to: 20 }, kind: 'region', size: [1, 0.4, 1], middle: [0, 0.5, 0] }),
        ],
        particle: { radius: { mean: 0.04, spread: 0.3 } },
        influences: [
          acting('gravity'),
          acting('selfCollision'),
          acting('collide', { mesh: 'box', friction: 0.4 }),
          acting('wind', {
            speed: 2,
            responses: [
              {
                to: 'strength',
                from: 'slope',
                curve: [
                  [0, 1],
                  [60, 0],
                ],
              },
            ],
          }),
          acting('sleep', { speed: 0.2, wait: 0.1 }),
        ],
      },
      {
        quality: { substeps: 2, iterations: 4 },
        meshes: [
          {
            id: 'box',
            source: { asset: ASSET },
            place: { position: [0, -1, 0], rotation: [0, 0, keys([1, 10], [40, 35])], scale: [4, 0.5, 4] },
          },
        ],
      },
    ),
  'flakes that gather to a cover': () =>
    shotOf({
      births: [burst({ kind: 'region', size: [1, 0.3, 1], middle: [0, 1, 0], amount: { rate: 2000 } })],
      particle: { radius: 0.03 },
      influences: [
        acting('gravity'),
        acting('collide', { mesh: 'box' }),
        acting('cover', { mesh: 'box', detail: 0.1, gathers: 40, repose: 5, depth: 0.05 }),
      ],
    }),
  'births where a front has just passed': () =>
    shotOf(
      {
        births: [burst({ kind: 'surface', amount: { swept: 600, mask: 'm', level: 0.5 } })],
        influences: [acting('gravity')],
      },
      {
        masks: [{ id: 'm', kind: 'slab', position: [keys([1, -1], [20, 1]), 0, 0], soft: 0.2 }],
        meshes: [{ id: 'box', source: { asset: ASSET }, detail: 0.2 }],
      },
    ),
  'a swarm that wants to go somewhere, on phases that change': () =>
    shotOf({
      phases: ['Held', 'Loose'],
      births: [burst({ into: 'Held', amount: { burst: 400, at: 1 } })],
      cues: [{ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'after', frames: { mean: 8, spread: 6 } } }],
      goals: [{ id: 'g', kind: 'surface', mesh: 'box' }],
      influences: [
        acting('ride', { weights: { Held: 1 } }),
        acting('arrive', { goal: 'g' }),
        acting('flock', { weights: both }),
        acting('mutual', { weights: both, near: 0.02, far: 0.2 }),
      ],
    }),
  'attributes of their own, set and read by what acts': () =>
    everything(
      [
        acting('set', {
          attribute: 'heat',
          how: 'rate',
          value: 3,
          responses: [{ to: 'value', from: 'crowding', curve: [[0, 1], [6, 0]] }], // prettier-ignore
        }),
        acting('avoid', { with: 'others' }),
        acting('mutual', { with: 'others', near: 0.1, far: 0.9 }),
        acting('calm', {}),
        acting('attract', {
          strength: 3,
          responses: [{ to: 'strength', from: 'own', attribute: 'heat', curve: [[0, 0], [4, 1]] }], // prettier-ignore
        }),
        acting('vortex', {}),
        acting('wind', { speed: 3, gusts: 0.5 }),
        acting('airDrag', {}),
        acting('collide', { mesh: 'there', side: 'either' }),
      ],
      {
        population: {
          phases: ['Held', 'Loose'],
          cues: [
            {
              id: 'c',
              from: 'Loose',
              to: 'dies',
              when: { kind: 'attribute', attribute: 'heat', above: 2.9 },
            },
          ],
        },
      },
    ),
}

/** What a kind must name, of what `everything` has. */
const NAMED: Record<string, string> = {
  mesh: 'there',
  mask: 'm',
  combing: 'c',
  goal: 'g',
  attribute: 'heat',
  population: 'others',
  phase: 'Loose',
  parentPhase: 'Loose',
}
/** The references that a kind cannot be without. */
export const namesOf = (parameters: Parameters): Record<string, string> =>
  Object.fromEntries(
    Object.entries(parameters).flatMap(([name, parameter]) =>
      parameter.type === 'reference' && parameter.absent === undefined ? [[name, NAMED[parameter.to]!]] : [],
    ),
  )

/** All that a kind may name. */
export const allNamesOf = (parameters: Parameters): Record<string, string> =>
  Object.fromEntries(
    Object.entries(parameters).flatMap(([name, parameter]) =>
      parameter.type === 'reference' ? [[name, NAMED[parameter.to]!]] : [],
    ),
  )

/** A small shot with a mesh, a mask, a goal, an attribute and another population for anything to name. */
export function everything(influences: object[], more: { population?: object; shot?: object } = {}): Shot {
  const burstOf = (id: string, count: number) => ({
    id,
    kind: 'surface',
    mesh: 'box',
    into: 'Loose',
    amount: { burst: count, at: 1 },
  })
  return shotOf(
    {},
    {
      meshes: [
        { id: 'box', source: { asset: ASSET } },
        {
          id: 'there',
          source: { asset: ASSET },
          detail: 0.5,
          place: { position: [0.6, keys([1, 0], [30, 0.5]), 0], rotation: [0, keys([1, 0], [30, 60]), 0] },
          deform: [{ id: 'r', kind: 'ripple', amount: 0.03 }],
        },
      ],
      masks: [{ id: 'm', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 1 }],
      combings: [{ id: 'c', mesh: 'there', start: 'noise', smooth: 0.1 }],
      quality: { substeps: 2, iterations: 2 },
      populations: [
        {
          id: 'dust',
          phases: ['Loose'],
          particle: { radius: { mean: 0.05, spread: 0.3 }, density: 1000 },
          attributes: [{ id: 'heat', name: 'Heat', birth: { low: 0, high: 2 } }],
          births: [burstOf('b', 80)],
          goals: [{ id: 'g', kind: 'surface', mesh: 'there' }],
          influences,
          ...more.population,
        },
        { id: 'others', phases: ['Loose'], births: [burstOf('b', 40)] },
      ],
      ...more.shot,
    },
  )
}

/** A response of each kind to a parameter. */
export const responsesTo = (to: string): object[] =>
  RESPONSES.map(({ from, needs, usual }) => ({
    to,
    from,
    ...(needs ? { [needs]: NAMED[needs] } : {}),
    curve: [[usual[0], 0.9], [usual[1] > usual[0] ? usual[1] : usual[0] + 1, 1.1]], // prettier-ignore
  }))

/** Each kind of influence by itself, as it comes. */
export const INFLUENCE_SHOTS = INFLUENCES.map(({ kind, parameters }) => ({
  kind,
  shot: (more: object = {}): Shot => everything([acting(kind, { ...namesOf(parameters), ...more })]),
}))
