import DarkModeOutlined from '@mui/icons-material/DarkModeOutlined'
import LightModeOutlined from '@mui/icons-material/LightModeOutlined'
import SearchOutlined from '@mui/icons-material/SearchOutlined'
import { Box, Button, ButtonBase, IconButton, Tooltip, Typography } from '@mui/material'
import { useColorScheme } from '@mui/material/styles'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { History } from './History.tsx'
import { NameField } from '../fields/NameField.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { finderToggled } from '../store/session.ts'
import { set } from '../store/shot.ts'
import { HEARD, MONO } from '../theme.ts'
import { clockTime } from '../words.ts'

/** The bar on top of a shot: where one is, the finder, whether it is saved, undo and redo. */
export function TopBar({ onTake }: { onTake(): void }) {
  const act = useAct()
  return (
    <Bar placed>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0, flex: 1 }}>
        <Typography
          component={Link}
          to="/"
          sx={{ color: 'text.secondary', textDecoration: 'none', '&:hover': { color: 'primary.main' } }}
        >
          Shots
        </Typography>
        <Typography sx={{ color: 'text.secondary' }}>/</Typography>
        <ShotName />
      </Box>
      <ButtonBase
        aria-label="Find a command, step, frame… Ctrl K"
        onClick={() => act(finderToggled(true))}
        sx={{
          width: { xs: 34, md: 200, lg: 300 },
          minWidth: { xs: 34, md: 90 },
          height: 28,
          px: 1.25,
          border: 1,
          borderColor: 'divider',
          borderRadius: 1,
          justifyContent: { xs: 'center', md: 'space-between' },
          color: 'text.secondary',
          bgcolor: 'background.paper',
          fontSize: 13,
        }}
      >
        <SearchOutlined sx={{ fontSize: 18, display: { md: 'none' } }} />
        <Box
          component="span"
          sx={{
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
            display: { xs: 'none', md: 'block' },
          }}
        >
          Find a command, step, frame…
        </Box>
        <Box
          component="kbd"
          sx={{
            fontFamily: MONO,
            fontSize: 12,
            border: 1,
            borderColor: 'divider',
            borderRadius: 0.5,
            px: 0.5,
            whiteSpace: 'nowrap',
            display: { xs: 'none', md: 'block' },
          }}
        >
          Ctrl K
        </Box>
      </ButtonBase>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          flex: 1,
          minWidth: 0,
          justifyContent: 'flex-end',
        }}
      >
        <SaveWord />
        <ThemeButton />
        <History />
        <Button variant="contained" onClick={onTake} sx={{ flexShrink: 0, whiteSpace: 'nowrap' }}>
          Make a take
        </Button>
      </Box>
    </Bar>
  )
}

/** The bar on top of a page. Where there is little room, one that says where one is needs no name of the application. */
export function Bar({ children, placed = false }: { children: ReactNode; placed?: boolean }) {
  const narrow = placed ? 'none' : 'block'
  return (
    <Box
      component="header"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        px: 2,
        height: 44,
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'background.default',
      }}
    >
      <Typography
        component={Link}
        to="/"
        sx={{
          display: { xs: narrow, md: 'block' },
          fontWeight: 700,
          fontSize: 15,
          color: 'text.primary',
          textDecoration: 'none',
          width: 76,
        }}
      >
        Tangle
      </Typography>
      {children}
    </Box>
  )
}

export function ThemeButton() {
  const { mode, systemMode, setMode } = useColorScheme()
  const dark = (mode === 'system' ? systemMode : mode) !== 'light'
  return (
    <Tooltip title={dark ? 'Light theme' : 'Dark theme'}>
      <IconButton
        size="small"
        aria-label={dark ? 'Light theme' : 'Dark theme'}
        onClick={() => setMode(dark ? 'light' : 'dark')}
      >
        {dark ? <LightModeOutlined fontSize="small" /> : <DarkModeOutlined fontSize="small" />}
      </IconButton>
    </Tooltip>
  )
}

function ShotName() {
  const act = useAct()
  const { name } = useShot()
  return (
    <>
      <Box component="h1" sx={HEARD}>
        {name}
      </Box>
      <NameField
        label="Name of the shot"
        value={name}
        onChange={(value) => act(set({ path: ['name'], value }))}
        sx={{ flex: 1 }}
      />
    </>
  )
}

function SaveWord() {
  const { state, at, message } = useStore((s) => s.session.save)
  const words = {
    saved: at ? `saved ${clockTime(at)}` : 'saved',
    edited: 'edited',
    saving: 'saving…',
    failed: 'not saved',
    conflict: 'not saved',
  }
  const bad = state === 'failed' || state === 'conflict'
  return (
    <Tooltip title={message ?? 'Every edit is saved by itself'}>
      <Typography
        data-testid="save"
        noWrap
        sx={{ fontSize: 12.5, color: bad ? 'error.main' : 'text.secondary' }}
      >
        {words[state]}
      </Typography>
    </Tooltip>
  )
}
