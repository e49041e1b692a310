/** The charts over frames: which a population has, and what their lines read. */
import {
  EVENT_KINDS,
  type CoverMeasures,
  type EventKind,
  type Measures,
  type Population,
  type PopulationMeasures,
  type SeenMeasures,
  type ShotMesh,
} from '@tangle/core'
import type { Engine } from '../engine/engine.ts'
import { count } from '../words.ts'

/** At most so many points of a curve over the frames. */
const MOST_POINTS = 240

export interface Lines {
  title: string
  /** How values are shown. */
  format(y: number): string
  /** Names of the lines and what each reads of a frame; undefined where there is nothing. */
  lines: [name: string, read: (measured: PopulationMeasures, all: Measures) => number | undefined][]
}
/** Events in words. */
export const EVENT_NAMES: Record<EventKind, string> = {
  birth: 'born',
  death: 'died',
  touch: 'touched',
  break: 'broken',
  phase: 'changed phase',
  hit: 'its ray met',
  splash: 'splashed',
}
const metres = (y: number): string => `${Number(y.toPrecision(2))} m`

type Charts = Record<string, Lines>
const short = (digits: number) => (y: number) => String(Number(y.toPrecision(digits)))
const percentiles = (
  of: (m: PopulationMeasures) => { median: number; high: number; most: number } | undefined,
  most: string,
): Lines['lines'] => [
  ['median', (m) => of(m)?.median],
  ['90 %', (m) => of(m)?.high],
  [most, (m) => of(m)?.most],
]

/** The charts over frames that a population has: of what acts in it, as far as `now`, a frame, has measured it. */
export function linesOf(
  population: Population,
  meshes: ShotMesh[],
  now: { measured: PopulationMeasures; all: Measures } | undefined,
): Charts {
  return {
    phases: {
      title: 'Particles by phase',
      format: count,
      lines: population.phases.map((phase) => [phase, (m) => m.phases[phase] ?? 0]),
    },
    speed: { title: 'Speed (m/s)', format: short(2), lines: percentiles((m) => m.speed, 'highest') },
    events: {
      title: 'Events',
      format: count,
      lines: EVENT_KINDS.map((kind) => [EVENT_NAMES[kind], (m) => m.events?.[kind]]),
    },
    ...goalLines(population),
    ...attributeLines(population),
    overlaps: {
      title: 'Overlaps',
      format: count,
      lines: [
        ['pairs', (m) => m.overlaps?.pairs],
        ['particles that touch', (m) => m.overlaps?.touching],
      ],
    },
    depth: {
      title: 'Worst overlap (mm)',
      format: short(2),
      lines: [['worst', (m) => (m.overlaps ? m.overlaps.worst * 1000 : undefined)]],
    },
    ...(now?.measured.contact ? CONTACT : {}),
    ...(now?.measured.links ? LINKS : {}),
    ...(now?.measured.bonds ? BONDS : {}),
    ...(now?.measured.liquid ? LIQUID : {}),
    ...(now?.measured.temperature ? TEMPERATURE : {}),
    ...(population.influences.some(({ kind }) => kind === 'dock') ? HOME : {}),
    ...coverLines(now?.all.covers ?? [], meshes),
    ...seenLines(now?.all.seen ?? [], meshes),
    energy: {
      title: 'Energy (J)',
      format: short(3),
      lines: [
        ['kinetic', (m) => m.energy.kinetic],
        ['potential', (m) => m.energy.potential],
        ...(now?.measured.energy.spin !== undefined
          ? [['spin', (m) => m.energy.spin] as Lines['lines'][0]]
          : []),
        ...(now?.measured.links ? [['elastic', (m) => m.energy.elastic] as Lines['lines'][0]] : []),
      ],
    },
  }
}

function goalLines({ goals }: Population): Charts {
  const charts: Charts = {}
  for (const { id, name } of goals) {
    const of = (m: PopulationMeasures) => m.goals.find((goal) => goal.id === id && goal.paired > 0)
    charts[`goal ${id}`] = {
      title: `Distance to ${name}`,
      format: metres,
      lines: percentiles(of, 'farthest'),
    }
    charts[`arrived ${id}`] = {
      title: `Arrived at ${name}`,
      format: count,
      lines: [
        ['arrived', (m) => of(m)?.arrived],
        ['on the way', (m) => (of(m) ? of(m)!.paired - of(m)!.arrived : undefined)],
      ],
    }
  }
  return charts
}

/** Attributes of its own: numbers, lengths of vectors, brightness of colours. */
function attributeLines({ attributes }: Population): Charts {
  const of = (id: string, part: 'low' | 'median' | 'high') => (m: PopulationMeasures) =>
    m.attributes?.[id]?.[part]
  return Object.fromEntries(
    attributes.map(({ id, name, unit }) => [
      `own ${id}`,
      {
        title: unit ? `${name} (${unit})` : name,
        format: short(3),
        lines: [
          ['median', of(id, 'median')],
          ['10 %', of(id, 'low')],
          ['90 %', of(id, 'high')],
        ],
      },
    ]),
  )
}

const CONTACT: Charts = {
  contact: {
    title: 'On the wrong side, and asleep',
    format: count,
    lines: [
      ['wrong side', (m) => m.contact?.inside],
      ['asleep', (m) => m.contact?.asleep],
    ],
  },
  penetration: {
    title: 'Worst penetration (mm)',
    format: short(2),
    lines: [['worst', (m) => (m.contact ? m.contact.worst * 1000 : undefined)]],
  },
}
const LINKS: Charts = {
  links: {
    title: 'Links',
    format: count,
    lines: [
      ['alive', (m) => m.links?.alive],
      ['broken', (m) => m.links?.broken],
    ],
  },
  stretch: {
    title: 'Worst stretch (%)',
    format: short(2),
    lines: [['worst', (m) => (m.links ? m.links.worst * 100 : undefined)]],
  },
}
const HOME: Charts = {
  home: {
    title: 'Home again',
    format: count,
    lines: [
      ['docked', (m) => m.pieces?.docked],
      ['on the way', (m) => (m.pieces ? m.pieces.homing - m.pieces.docked : undefined)],
    ],
  },
  wide: {
    title: 'Farthest from home',
    format: metres,
    lines: [['farthest', (m) => (m.pieces && m.pieces.homing > 0 ? m.pieces.farthest : undefined)]],
  },
}
const BONDS: Charts = {
  bonds: {
    title: 'Bonds',
    format: count,
    lines: [
      ['whole', (m) => m.bonds?.whole],
      ['broken', (m) => m.bonds?.broken],
      ['bodies', (m) => m.bonds?.bodies],
    ],
  },
  borne: {
    title: 'Load on the worst bond (%)',
    format: short(2),
    lines: [['of what it bears', (m) => (m.bonds ? m.bonds.worst * 100 : undefined)]],
  },
}

const LIQUID: Charts = {
  level: { title: 'Level of the liquid (m)', format: short(4), lines: [['surface', (m) => m.liquid?.level]] },
  liquid: {
    title: 'Volume of the liquid (m³)',
    format: short(4),
    lines: [['volume', (m) => m.liquid?.volume]],
  },
  compressed: {
    title: 'Denser than at rest (%)',
    format: short(2),
    lines: [
      ['mean', (m) => (m.liquid ? m.liquid.compression * 100 : undefined)],
      ['99 %', (m) => (m.liquid ? m.liquid.high * 100 : undefined)],
    ],
  },
}

const TEMPERATURE: Charts = {
  temperature: {
    title: 'Temperature (°C)',
    format: short(3),
    lines: [
      ['coldest', (m) => m.temperature?.coldest],
      ['mean', (m) => m.temperature?.mean],
      ['warmest', (m) => m.temperature?.warmest],
    ],
  },
}

function coverLines(now: CoverMeasures[], meshes: ShotMesh[]): Charts {
  if (now.length === 0) return {}
  const each = (value: (cover: CoverMeasures) => number): Lines['lines'] =>
    now.map(({ id }) => [
      meshes.find((mesh) => mesh.id === id)?.name ?? id,
      // takes from before there were covers have none
      (_, { covers = [] }) => covers.filter((one) => one.id === id).map(value)[0],
    ])
  return {
    cover: { title: 'Greatest height of covers', format: metres, lines: each((one) => one.deepest) },
    volume: { title: 'Volume of covers (m³)', format: short(2), lines: each((one) => one.volume) },
  }
}

/** How much of meshes rays have seen. */
function seenLines(now: SeenMeasures[], meshes: ShotMesh[]): Charts {
  if (now.length === 0) return {}
  const lines: Lines['lines'] = now.map(({ id, mesh }) => [
    meshes.find((one) => one.id === mesh)?.name ?? mesh,
    // takes from before rays were remembered have none
    (_, { seen = [] }) => seen.filter((one) => one.id === id).map(({ share }) => share * 100)[0],
  ])
  return { seen: { title: 'Seen by rays (%)', format: short(3), lines } }
}

/** What the lines read of every computed frame. */
export function readLines(e: Engine, id: string, lines: Lines['lines']) {
  const { first, last } = e.frames
  const stride = Math.max(1, Math.ceil((last - first + 1) / MOST_POINTS))
  const rows: { frame: number; measured: PopulationMeasures; all: Measures }[] = []
  for (let frame = first; frame <= last; frame += stride) {
    const all = e.measuresAt(frame)
    const measured = all?.populations.find((one) => one.id === id)
    if (all && measured) rows.push({ frame, measured, all })
  }
  return lines.map(([name, read]) => ({
    name,
    data: rows.map(({ frame, measured, all }) => ({ x: frame, y: read(measured, all) ?? null })),
  }))
}
