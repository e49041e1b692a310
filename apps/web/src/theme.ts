import { createTheme } from '@mui/material/styles'

declare module '@mui/material/styles' {
  interface TypeBackground {
    raised: string
    row: string
  }
  interface Palette {
    line: string
    cell: string
    /** Text on the stage, whose backdrop is the shot's and not the theme's. */
    onDarkStage: string
    onLightStage: string
    /** Behind readouts, so that particles do not hide them. */
    shadeDark: string
    shadeLight: string
    /** Of phases, in order. */
    phases: string[]
    /** Of a mask on a mesh, at 0 and at 1. */
    heatLow: string
    heatHigh: string
  }
  interface PaletteOptions {
    line?: string
    cell?: string
    onDarkStage?: string
    onLightStage?: string
    shadeDark?: string
    shadeLight?: string
    phases?: string[]
    heatLow?: string
    heatHigh?: string
  }
  interface TypographyVariants {
    mono: string
  }
}

const STAGE = {
  onDarkStage: '#efe8dc',
  onLightStage: '#211a2c',
  shadeDark: 'rgba(18, 14, 26, 0.72)',
  shadeLight: 'rgba(246, 241, 231, 0.72)',
  phases: ['#efe8dc', '#f2b04a', '#5fd0b5', '#b794e0', '#ff7a66', '#7fb3e6', '#d3e06b', '#e38fb8'],
  heatLow: '#3a3450',
  heatHigh: '#ffd9a0',
}

/** For who hears the page: it is not drawn. */
export const HEARD = {
  position: 'absolute',
  width: 1,
  height: 1,
  m: 0,
  overflow: 'hidden',
  clipPath: 'inset(50%)',
}

export const MONO = "'Spline Sans Mono Variable', monospace"

/** Paper and ink: at night by default, on paper for who prefers it. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-theme' },
  defaultColorScheme: 'dark',
  colorSchemes: {
    dark: {
      palette: {
        primary: { main: '#5fd0b5', contrastText: '#10241f' },
        warning: { main: '#f2b04a' },
        error: { main: '#ff7a66' },
        background: { default: '#17131f', paper: '#1f1a2a', raised: '#272135', row: '#25323a' },
        text: { primary: '#efe8dc', secondary: '#a79fb3' },
        divider: '#352d45',
        ...STAGE,
        line: '#4d4360',
        cell: '#2a4a4a',
      },
    },
    light: {
      palette: {
        primary: { main: '#14705c', contrastText: '#ffffff' },
        warning: { main: '#8a5400' },
        error: { main: '#b3321e' },
        background: { default: '#f6f1e7', paper: '#fbf8f1', raised: '#ffffff', row: '#e3efe9' },
        text: { primary: '#2a2233', secondary: '#655c70' },
        divider: '#d9cfbd',
        ...STAGE,
        line: '#b3a890',
        cell: '#c4e3d8',
      },
    },
  },
  shape: { borderRadius: 6 },
  typography: {
    fontFamily: "'Figtree Variable', sans-serif",
    fontSize: 13,
    button: { textTransform: 'none', fontWeight: 500 },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        'html, body, #root': { height: '100%' },
        body: { fontSize: 13, overflow: 'hidden' },
        '@media (prefers-reduced-motion: reduce)': {
          '*, ::before, ::after': {
            animationDuration: '1ms !important',
            transitionDuration: '1ms !important',
            scrollBehavior: 'auto !important',
          },
        },
        ':focus-visible': { outline: '2px solid var(--mui-palette-primary-main)', outlineOffset: 1 },
      },
    },
    MuiButton: {
      defaultProps: { size: 'small', disableElevation: true },
      styleOverrides: { root: { minHeight: 28, padding: '2px 10px', minWidth: 0, fontSize: 13 } },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    // more than a border's colour says where one types
    MuiInputBase: {
      styleOverrides: {
        root: {
          '&.Mui-focused': { outline: '2px solid var(--mui-palette-primary-main)', outlineOffset: -1 },
        },
        input: { '&:focus-visible': { outline: 'none' } },
      },
    },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiTooltip: { defaultProps: { enterDelay: 500 }, styleOverrides: { tooltip: { fontSize: 12 } } },
    // what it says of a field that waits is read all the same
    MuiFormHelperText: {
      styleOverrides: { root: { '&.Mui-disabled': { color: 'var(--mui-palette-text-secondary)' } } },
    },
    MuiMenuItem: { styleOverrides: { root: { minHeight: 28, fontSize: 13 } } },
    MuiSelect: {
      defaultProps: { size: 'small' },
      styleOverrides: { select: { padding: '3px 8px', fontSize: 13 } },
    },
    MuiSlider: {
      defaultProps: { size: 'small' },
      styleOverrides: { thumb: { width: 10, height: 12, borderRadius: 3 }, root: { padding: '8px 0' } },
    },
    MuiDialog: { styleOverrides: { paper: { backgroundImage: 'none' } } },
  },
})
