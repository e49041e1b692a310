/** The charts over frames: which a population has, and what their lines read. */
import type { CoverMeasures, Measures, Population, PopulationMeasures, ShotMesh } from '@tangle/core'
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
const metres = (y: number): string => `${Number(y.toPrecision(2))} m`

/** The charts over frames that a population can have. */
export function linesOf(
  { phases, goals, influences }: Population,
  meshes: ShotMesh[],
): Record<string, Lines> {
  const byPhase = phases.map((phase): Lines['lines'][0] => [phase, (m) => m.phases[phase] ?? 0])
  const charts: Record<string, Lines> = {
    phases: { title: 'Particles by phase', format: count, lines: byPhase },
    speed: {
      title: 'Speed (m/s)',
      format: (y) => String(Number(y.toPrecision(2))),
      lines: [
        ['median', (m) => m.speed.median],
        ['90 %', (m) => m.speed.high],
        ['highest', (m) => m.speed.most],
      ],
    },
  }
  for (const { id, name } of goals) {
    const of = (m: PopulationMeasures) => m.goals.find((goal) => goal.id === id && goal.paired > 0)
    charts[`goal ${id}`] = {
      title: `Distance to ${name}`,
      format: metres,
      lines: [
        ['median', (m) => of(m)?.median],
        ['90 %', (m) => of(m)?.high],
        ['farthest', (m) => of(m)?.most],
      ],
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
  charts.overlaps = {
    title: 'Overlaps',
    format: count,
    lines: [
      ['pairs', (m) => m.overlaps?.pairs],
      ['particles that touch', (m) => m.overlaps?.touching],
    ],
  }
  charts.depth = {
    title: 'Worst overlap (mm)',
    format: (y) => String(Number(y.toPrecision(2))),
    lines: [['worst', (m) => (m.overlaps ? m.overlaps.worst * 1000 : undefined)]],
  }
  const has = (kind: string): boolean => influences.some((one) => one.kind === kind)
  if (has('collide') || has('floor'))
    charts.contact = {
      title: 'On the wrong side, and asleep',
      format: count,
      lines: [
        ['wrong side', (m) => m.contact?.inside],
        ['asleep', (m) => m.contact?.asleep],
      ],
    }
  if (has('collide') || has('floor'))
    charts.penetration = {
      title: 'Worst penetration (mm)',
      format: (y) => String(Number(y.toPrecision(2))),
      lines: [['worst', (m) => (m.contact ? m.contact.worst * 1000 : undefined)]],
    }
  if (has('link')) {
    charts.links = {
      title: 'Links',
      format: count,
      lines: [
        ['alive', (m) => m.links?.alive],
        ['broken', (m) => m.links?.broken],
      ],
    }
    charts.stretch = {
      title: 'Worst stretch (%)',
      format: (y) => String(Number(y.toPrecision(2))),
      lines: [['worst', (m) => (m.links ? m.links.worst * 100 : undefined)]],
    }
  }
  const covered = influences.filter((one) => one.kind === 'cover' && !one.muted)
  if (covered.length > 0) {
    const each = (value: (cover: CoverMeasures) => number): Lines['lines'] =>
      covered.map(({ mesh }) => [
        meshes.find(({ id }) => id === mesh)?.name ?? '',
        // takes from before there were covers have none
        (_, { covers = [] }) => covers.filter(({ id }) => id === mesh).map(value)[0],
      ])
    charts.cover = { title: 'Greatest height of covers', format: metres, lines: each((one) => one.deepest) }
    charts.volume = {
      title: 'Volume of covers (m³)',
      format: (y) => String(Number(y.toPrecision(2))),
      lines: each((one) => one.volume),
    }
  }
  charts.energy = {
    title: 'Energy (J)',
    format: (y) => String(Number(y.toPrecision(3))),
    lines: [
      ['kinetic', (m) => m.energy.kinetic],
      ['potential', (m) => m.energy.potential],
      ...(has('link') ? [['elastic', (m) => m.energy.elastic] as Lines['lines'][0]] : []),
    ],
  }
  return charts
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
