import { Box } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import ApexCharts, { type ApexOptions } from 'apexcharts'
import { useEffect, useRef } from 'react'
import { MONO } from '../theme.ts'
import { followChart } from './liveChart.ts'

interface ChartProps {
  type: 'line' | 'bar'
  options: ApexOptions
  series: NonNullable<ApexOptions['series']>
}

/** A chart that fills its box. */
export function Chart({ type, options, series }: ChartProps) {
  const box = useRef<HTMLDivElement>(null)
  const follow = useRef<ReturnType<typeof followChart<ApexOptions>>>(null)
  const wanted: ApexOptions = {
    ...options,
    chart: { ...options.chart, type, width: '100%', height: '100%' },
    series,
  }
  const latest = useRef(wanted)
  useEffect(() => {
    const create = (first: ApexOptions) => {
      const chart = new ApexCharts(box.current, first)
      return {
        render: () => chart.render(),
        updateOptions: (next: ApexOptions) => chart.updateOptions(next, false, false),
        destroy: () => chart.destroy(),
      }
    }
    const made = followChart<ApexOptions>(create, (one) => JSON.stringify(one), latest.current)
    follow.current = made
    return made.dispose
  }, [])
  useEffect(() => {
    latest.current = wanted
    follow.current?.show(wanted)
  })
  return <Box ref={box} sx={{ height: '100%' }} />
}

/** What all charts have in common. */
export function useChartOptions(): ApexOptions {
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
