import { useTheme } from '@mui/material/styles'
import type { ApexOptions } from 'apexcharts'
import ChartModule from 'react-apexcharts'
import { MONO } from '../theme.ts'

/** Bundlers differ in how they give the default of a CommonJS package. */
export const Chart = (ChartModule as unknown as { default?: typeof ChartModule }).default ?? ChartModule

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
