import { Box, MenuItem, Select, Typography } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import type { Population } from '@tangle/core'
import type { ApexOptions } from 'apexcharts'
import { useMemo, useState } from 'react'
import type { Engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { useShot } from '../store/index.ts'
import { count } from '../words.ts'
import { Chart, useChartOptions } from './chart.tsx'
import { histogram } from './columns.ts'
import { linesOf, readLines, type Lines } from './lines.ts'
import { particleColumns, spreading } from './particleColumns.ts'

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
      <HistogramChart population={population} />
    </Box>
  )
}

function LinesChart({ population }: { population: Population }) {
  const base = useChartOptions()
  const { palette } = useTheme()
  const { meshes } = useShot()
  // which charts there are follows what the first frames have measured
  const now = useEngineSlowly((e) => {
    const all = e.measures()
    const measured = all?.populations.find((one) => one.id === population.id)
    return all && measured ? { all, measured } : undefined
  }, 400)
  const charts = linesOf(population, meshes, now)
  const [wanted, setWanted] = useState(population.goals[0] ? `goal ${population.goals[0].id}` : 'phases')
  const chosen = charts[wanted] ? wanted : 'phases'
  const { title, format, lines } = charts[chosen]!
  const { series, frame } = useEngineSlowly(
    (e) => ({ series: bothLines(e, population.id, lines), frame: e.frame }),
    400,
    chosen,
  )
  const colours = palette.phases.map((colour) =>
    colour === palette.phases[0] ? palette.text.primary : colour,
  )
  const own = lines.length
  const options: ApexOptions = {
    ...base,
    // the same line on the other side of a comparison has the same colour, and is dashed
    colors: series.map((_, n) => colours[(n % own) % colours.length]!),
    stroke: { ...base.stroke, dashArray: series.map((_, n) => (n < own ? 0 : 4)) },
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
      <Chart key={`${chosen} ${title}`} type="line" options={options} series={series} />
    </Labelled>
  )
}

/** The lines of what is shown, and after them those of what it is compared with. */
function bothLines(e: Engine, population: string, lines: Lines['lines']): ReturnType<typeof readLines> {
  const all = readLines(e, population, lines)
  e.beside(() => {
    for (const line of readLines(e, population, lines)) all.push({ ...line, name: `${line.name}, compared` })
  })
  return all
}

function HistogramChart({ population }: { population: Population }) {
  const base = useChartOptions()
  const { palette } = useTheme()
  const [name, setName] = useState('speed')
  const packed = useEngineSlowly((e) => e.populations().find((one) => one.id === population.id), 400)
  const columns = useMemo(() => (packed ? particleColumns(packed, population) : {}), [packed, population])
  const column = columns[name] ?? columns.speed
  const { middles, counts } = useMemo(
    () => (packed && column ? histogram(packed.count, column) : { middles: [], counts: [] }),
    [packed, column],
  )
  const { unit, label } = column ?? { unit: '', label: name }
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
          value={columns[name] ? name : ''}
          onChange={(event) => setName(event.target.value)}
          inputProps={{ 'aria-label': 'Attribute' }}
          sx={{ height: 24 }}
        >
          {spreading(columns).map((one) => (
            <MenuItem key={one} value={one}>
              {columns[one]!.label} {columns[one]!.unit && `(${columns[one]!.unit})`}
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
