import { Box, MenuItem, Select, Typography } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import type { Shot } from '@tangle/core'
import type { ApexOptions } from 'apexcharts'
import { useEffect, useState } from 'react'
import { Chart, useChartOptions } from '../drawer/chart.tsx'
import { linesOf } from '../drawer/lines.ts'
import { api, type Take, type TakeDetails } from '../store/api.ts'
import { useAct } from '../store/index.ts'
import { variedIn } from './takeWords.ts'

/** What is shown before another one is chosen: counts are often alike. */
const FIRST = /Speed.*median/

/** One measure of all takes over the frames, laid over one another. */
export function SheetCharts({ takes, shot, frame }: { takes: Take[]; shot: Shot; frame: number }) {
  const base = useChartOptions()
  const { palette } = useTheme()
  const details = useDetails(takes)
  const offered = measuresOf(shot, details[0])
  const [wanted, setWanted] = useState('')
  const chosen =
    offered.find(({ name }) => name === wanted) ?? offered.find(({ name }) => FIRST.test(name)) ?? offered[0]
  if (!chosen) return null
  const series = details.map((take) => ({ name: variedIn(take), data: chosen.read(take) }))
  const options: ApexOptions = {
    ...base,
    colors: palette.phases,
    xaxis: { type: 'numeric', tickAmount: 8, labels: { formatter: (x) => String(Math.round(Number(x))) } },
    yaxis: { labels: { formatter: chosen.format } },
    annotations: { xaxis: [{ x: frame, borderColor: palette.warning.main, strokeDashArray: 0 }] },
  }
  return (
    <Box sx={{ height: 210, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Select
          value={chosen.name}
          onChange={(event) => setWanted(event.target.value)}
          inputProps={{ 'aria-label': 'Measure' }}
          sx={{ height: 24 }}
        >
          {offered.map(({ name }) => (
            <MenuItem key={name} value={name}>
              {name}
            </MenuItem>
          ))}
        </Select>
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>over frames</Typography>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0 }}>
        <Chart key={chosen.name} type="line" options={options} series={series} />
      </Box>
    </Box>
  )
}

function useDetails(takes: Take[]): TakeDetails[] {
  const act = useAct()
  const [details, setDetails] = useState<TakeDetails[]>([])
  const ids = takes.map(({ id }) => id).join(' ')
  useEffect(() => {
    let gone = false
    const asked = ids.split(' ').map((id) => act(api.endpoints.take.initiate(id)))
    void Promise.all(asked).then((answers) => {
      if (!gone) setDetails(answers.flatMap(({ data }) => data ?? []))
    })
    return () => {
      gone = true
      asked.forEach((one) => one.unsubscribe())
    }
  }, [ids, act])
  return details
}

interface Measure {
  name: string
  format(y: number): string
  read(take: TakeDetails): { x: number; y: number | null }[]
}

/** Every line of the charts of every population, by its name. */
function measuresOf(shot: Shot, take: TakeDetails | undefined): Measure[] {
  const last = take?.facts.at(-1)?.measures
  if (!last) return []
  return shot.populations.flatMap((population, p) => {
    const measured = last.populations[p]
    const charts = linesOf(population, shot.meshes, measured && { measured, all: last })
    const owner = shot.populations.length > 1 ? `${population.name}: ` : ''
    return Object.values(charts).flatMap(({ title, format, lines }) =>
      lines.map(([name, read]): Measure => ({
        name: `${owner}${title}, ${name}`,
        format,
        read: ({ facts }) =>
          facts.map(({ frame, measures }) => {
            const one = measures.populations[p]
            return { x: frame, y: (one && read(one, measures)) ?? null }
          }),
      })),
    )
  })
}
