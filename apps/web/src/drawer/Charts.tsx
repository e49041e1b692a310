import { Box, MenuItem, Select, Typography } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import type { Population, PopulationMeasures } from '@tangle/core'
import type { ApexOptions } from 'apexcharts'
import { useState } from 'react'
import ChartModule from 'react-apexcharts'
import type { Engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'
import { ATTRIBUTES, histogram, SPREAD } from './attributes.ts'

/** Bundlers differ in how they give the default of a CommonJS package. */
const Chart = (ChartModule as unknown as { default?: typeof ChartModule }).default ?? ChartModule

/** At most so many points of a curve over the frames. */
const MOST_POINTS = 240

/** What is measured over the frames, and how an attribute is spread at the frame. */
export function Charts() {
  const { population } = usePopulation()
  if (!population)
    return (
      <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
        Charts show particles over the frames: give birth to some in the Births step.
      </Typography>
    )
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', height: '100%', minWidth: 0 }}>
      <LinesChart key={population.id} population={population} />
      <HistogramChart id={population.id} />
    </Box>
  )
}

function useChartOptions(): ApexOptions {
  const { palette } = useTheme()
  return {
    chart: {
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      background: 'transparent',
      fontFamily: MONO,
      foreColor: palette.text.secondary,
    },
    theme: { mode: palette.mode },
    grid: { borderColor: palette.divider, padding: { top: -18, bottom: -6, left: 6, right: 10 } },
    dataLabels: { enabled: false },
    stroke: { width: 1.6, curve: 'straight' },
    legend: { position: 'top', horizontalAlign: 'left', fontSize: '12px', offsetY: 4 },
    tooltip: { x: { show: true } },
  }
}

interface Lines {
  title: string
  /** How values are shown. */
  format(y: number): string
  /** Names of the lines and what each reads of a frame; undefined where there is nothing. */
  lines: [name: string, read: (measured: PopulationMeasures) => number | undefined][]
}
const metres = (y: number): string => `${Number(y.toPrecision(2))} m`

/** The charts over frames that a population can have. */
function linesOf({ phases, goals, influences }: Population): Record<string, Lines> {
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
function readLines(e: Engine, id: string, lines: Lines['lines']) {
  const { first, last } = e.frames
  const stride = Math.max(1, Math.ceil((last - first + 1) / MOST_POINTS))
  const rows: { frame: number; measured: PopulationMeasures }[] = []
  for (let frame = first; frame <= last; frame += stride) {
    const measured = e.measuresAt(frame)?.populations.find((one) => one.id === id)
    if (measured) rows.push({ frame, measured })
  }
  return lines.map(([name, read]) => ({
    name,
    data: rows.map(({ frame, measured }) => ({ x: frame, y: read(measured) ?? null })),
  }))
}

function LinesChart({ population }: { population: Population }) {
  const base = useChartOptions()
  const { palette } = useTheme()
  const charts = linesOf(population)
  const [wanted, setWanted] = useState(population.goals[0] ? `goal ${population.goals[0].id}` : 'phases')
  const chosen = charts[wanted] ? wanted : 'phases'
  const { title, format, lines } = charts[chosen]!
  const { series, frame } = useEngineSlowly(
    (e) => ({ series: readLines(e, population.id, lines), frame: e.frame }),
    400,
    chosen,
  )
  const options: ApexOptions = {
    ...base,
    colors: palette.phases.map((colour) => (colour === palette.phases[0] ? palette.text.primary : colour)),
    xaxis: { type: 'numeric', tickAmount: 8, labels: { formatter: (x) => String(Math.round(Number(x))) } },
    yaxis: { min: 0, labels: { formatter: (y) => format(y) } },
    annotations: { xaxis: [{ x: frame, borderColor: palette.warning.main, strokeDashArray: 0 }] },
  }
  return (
    <Labelled
      title={
        <Select
          value={chosen}
          onChange={(event) => setWanted(event.target.value)}
          inputProps={{ 'aria-label': 'Chart' }}
          sx={{ height: 24 }}
        >
          {Object.entries(charts).map(([key, one]) => (
            <MenuItem key={key} value={key}>
              {one.title}
            </MenuItem>
          ))}
        </Select>
      }
      note="over frames"
    >
      <Chart
        key={`${chosen} ${title}`}
        type="line"
        options={options}
        series={series}
        height="100%"
        width="100%"
      />
    </Labelled>
  )
}

function HistogramChart({ id }: { id: string }) {
  const base = useChartOptions()
  const { palette } = useTheme()
  const [name, setName] = useState('speed')
  const { middles, counts } = useEngineSlowly(
    (e) => {
      const population = e.populations().find((one) => one.id === id)
      return population ? histogram(population, name) : { middles: [], counts: [] }
    },
    400,
    name,
  )
  const { unit, label } = ATTRIBUTES[name]!
  const options: ApexOptions = {
    ...base,
    colors: [palette.primary.main],
    plotOptions: { bar: { columnWidth: '94%' } },
    xaxis: {
      type: 'numeric',
      tickAmount: 5,
      labels: { rotate: 0, formatter: (x) => Number(Number(x).toPrecision(2)).toString() },
    },
    yaxis: { labels: { formatter: (y) => count(y) } },
  }
  return (
    <Labelled
      title={
        <Select
          value={name}
          onChange={(event) => setName(event.target.value)}
          inputProps={{ 'aria-label': 'Attribute' }}
          sx={{ height: 24 }}
        >
          {SPREAD.map((one) => (
            <MenuItem key={one} value={one}>
              {ATTRIBUTES[one]!.label} {ATTRIBUTES[one]!.unit && `(${ATTRIBUTES[one]!.unit})`}
            </MenuItem>
          ))}
        </Select>
      }
      note={`${label}${unit ? `, ${unit}` : ''}, at this frame`}
    >
      <Chart
        key={name}
        type="bar"
        options={options}
        series={[{ name: 'particles', data: middles.map((x, k) => ({ x, y: counts[k]! })) }]}
        height="100%"
        width="100%"
      />
    </Labelled>
  )
}

function Labelled({
  title,
  note,
  children,
}: {
  title: React.ReactNode
  note?: string
  children: React.ReactNode
}) {
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, px: 1, pb: 0.5 }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          height: 26,
          fontSize: 12.5,
          color: 'text.secondary',
        }}
      >
        {title}
        {note && <span>{note}</span>}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0 }}>{children}</Box>
    </Box>
  )
}
