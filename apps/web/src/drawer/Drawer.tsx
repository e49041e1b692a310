import { Box, IconButton } from '@mui/material'
import Close from '@mui/icons-material/Close'
import { lazy, Suspense } from 'react'
import { Choices } from '../fields/Choices.tsx'
import { useAct, useStore } from '../store/index.ts'
import { shownAs, type Session } from '../store/session.ts'

// charts are large: they come when they are asked for
const Charts = lazy(() => import('./Charts.tsx').then((module) => ({ default: module.Charts })))
const EventsTable = lazy(() =>
  import('./EventsTable.tsx').then((module) => ({ default: module.EventsTable })),
)
const ParticleTable = lazy(() =>
  import('./ParticleTable.tsx').then((module) => ({ default: module.ParticleTable })),
)

const SHOWN = { charts: <Charts />, table: <ParticleTable />, events: <EventsTable /> }

/** Charts over the frames, or every particle or event of the frame, under the stage. */
export function Drawer() {
  const act = useAct()
  const drawer = useStore((state) => state.session.drawer)
  if (drawer === null) return null
  return (
    <Box
      component="section"
      aria-label="Drawer"
      sx={{
        height: 236,
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
        display: 'flex',
        flexDirection: 'column',
        minWidth: 0,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', px: 1, height: 30, flexShrink: 0 }}>
        <Choices
          name="Drawer"
          value={drawer}
          options={{ charts: 'Charts', table: 'Particles', events: 'Events' }}
          onChange={(next) => act(shownAs({ drawer: next as Session['drawer'] }))}
        />
        <Box sx={{ flex: 1 }} />
        <IconButton size="small" aria-label="Close the drawer" onClick={() => act(shownAs({ drawer: null }))}>
          <Close sx={{ fontSize: 16 }} />
        </IconButton>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0 }}>
        <Suspense fallback={<Box sx={{ p: 2, color: 'text.secondary' }}>Opening…</Box>}>
          {SHOWN[drawer]}
        </Suspense>
      </Box>
    </Box>
  )
}
