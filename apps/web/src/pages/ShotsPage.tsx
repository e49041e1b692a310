import MoreHoriz from '@mui/icons-material/MoreHoriz'
import {
  Box,
  Button,
  Card,
  CardActionArea,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  IconButton,
  Menu,
  MenuItem,
  TextField,
  Typography,
} from '@mui/material'
import { keyframes } from '@mui/material/styles'
import { useEffect, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { Deleted } from '../frame/Deleted.tsx'
import { Bar, ThemeButton } from '../frame/TopBar.tsx'
import { useAgain } from '../store/again.ts'
import { api, faultOf, type ShotCard } from '../store/api.ts'
import { useAct } from '../store/index.ts'
import { noticed } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { STRIP_PICTURES } from '../words.ts'

/** All shots, the newest first. */
export function ShotsPage() {
  const { data, error, refetch } = api.useShotsQuery(undefined, { refetchOnMountOrArgChange: true })
  useAgain(error, refetch)
  const navigate = useNavigate()
  const act = useAct()
  const [create] = api.useCreateShotMutation()
  const start = async (recipe?: string): Promise<void> => {
    const result = await create({ name: 'New shot' })
    if (result.data) void navigate(`/shots/${result.data.id}/meshes`, { state: { recipe } })
    else act(noticed({ text: faultOf(result.error), tone: 'error' }))
  }
  useEffect(() => {
    document.title = 'Tangle'
  }, [])
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <Bar>
        <Box sx={{ flex: 1 }} />
        <ThemeButton />
        <Button
          variant="outlined"
          color="inherit"
          onClick={() => void start('')}
          sx={{ borderColor: 'divider' }}
        >
          Start from a recipe…
        </Button>
        <Button variant="contained" onClick={() => void start()}>
          New shot
        </Button>
      </Bar>
      <Box
        component="main"
        sx={{ flex: 1, overflowY: 'auto', p: 4, maxWidth: 1240, width: '100%', mx: 'auto' }}
      >
        <Typography component="h1" sx={{ fontSize: 22, fontWeight: 600 }}>
          Shots
        </Typography>
        <Typography sx={{ color: 'text.secondary', mb: 3 }}>
          A shot holds meshes, the particles that leave them, and what moves those. Open one of Heron Quay, or
          start a new one.
        </Typography>
        {error && (
          <Typography role="alert" color="error">
            {faultOf(error)}
          </Typography>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(270px, 1fr))', gap: 2 }}>
          {data?.map((shot) => (
            <ShotTile key={shot.id} shot={shot} />
          ))}
        </Box>
        {data?.length === 0 && (
          <Typography sx={{ color: 'text.secondary' }}>
            No shots. Make a new one with the button on the right.
          </Typography>
        )}
        <DeletedShots />
      </Box>
    </Box>
  )
}

/** Shots that were deleted: a click brings one back. */
function DeletedShots() {
  const act = useAct()
  const { data } = api.useDeletedShotsQuery(undefined, { refetchOnMountOrArgChange: true })
  const [restore] = api.useRestoreShotMutation()
  const bringBack = async (id: string): Promise<void> => {
    const { error } = await restore(id)
    if (error) act(noticed({ text: faultOf(error), tone: 'error' }))
  }
  const items = (data ?? []).map(({ id, name, changedAt }) => ({
    id,
    label: `${name} (${changed(changedAt)})`,
  }))
  return (
    <Box sx={{ mt: 3 }}>
      <Deleted words={['shot', 'shots']} items={items} onRestore={(id) => void bringBack(id)} />
    </Box>
  )
}

function ShotTile({ shot }: { shot: ShotCard }) {
  const act = useAct()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [renaming, setRenaming] = useState(false)
  const [near, setNear] = useState(false)
  const [remove] = api.useDeleteShotMutation()
  const [duplicate] = api.useDuplicateShotMutation()
  const { first, last, rate } = shot.frames
  const chosen = (work: () => unknown) => () => {
    setAnchor(null)
    void work()
  }
  const refused = (error: unknown): void => void act(noticed({ text: faultOf(error), tone: 'error' }))
  const drop = async (): Promise<void> => {
    const { error } = await remove(shot.id)
    if (error) return refused(error)
    act(noticed({ text: `${shot.name} is deleted`, tone: 'info', undo: { kind: 'shot', id: shot.id } }))
  }
  const copy = async (): Promise<void> => {
    const { error } = await duplicate(shot.id)
    if (error) refused(error)
  }
  return (
    <Card variant="outlined" data-testid="shot-card" sx={{ bgcolor: 'background.paper' }}>
      <CardActionArea
        component={Link}
        to={`/shots/${shot.id}/motion`}
        aria-label={`Open ${shot.name}`}
        onPointerEnter={() => setNear(true)}
        onPointerLeave={() => setNear(false)}
        onFocus={() => setNear(true)}
        onBlur={() => setNear(false)}
      >
        <Box
          sx={{
            aspectRatio: '16 / 10',
            bgcolor: 'background.default',
            display: 'grid',
            placeItems: 'center',
            overflow: 'hidden',
            position: 'relative',
          }}
        >
          <Picture shot={shot} near={near} />
        </Box>
      </CardActionArea>
      <Box sx={{ display: 'flex', px: 1.5, py: 1, alignItems: 'center' }}>
        <Box
          component={Link}
          to={`/shots/${shot.id}/motion`}
          tabIndex={-1}
          aria-hidden
          sx={{ flex: 1, minWidth: 0, color: 'inherit', textDecoration: 'none' }}
        >
          <Typography noWrap sx={{ fontWeight: 600 }}>
            {shot.name}
          </Typography>
          <Typography noWrap sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
            {last - first + 1} frames · {rate}/s · {changed(shot.changedAt)}
          </Typography>
        </Box>
        <IconButton
          size="small"
          aria-label={`More for ${shot.name}`}
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <MoreHoriz fontSize="small" />
        </IconButton>
      </Box>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <MenuItem onClick={chosen(() => setRenaming(true))}>Rename…</MenuItem>
        <MenuItem onClick={chosen(copy)}>Duplicate</MenuItem>
        <MenuItem onClick={chosen(drop)}>Delete</MenuItem>
      </Menu>
      {renaming && <Rename shot={shot} close={() => setRenaming(false)} />}
    </Card>
  )
}

/** What it looks like; while the pointer or the focus is on it, as it moves. */
function Picture({ shot, near }: { shot: ShotCard; near: boolean }) {
  const [broken, setBroken] = useState(false)
  if (!shot.pictured || broken)
    return <Typography sx={{ color: 'text.secondary', fontSize: 12 }}>no picture yet</Typography>
  return (
    <>
      <img
        src={`/api/shots/${shot.id}/thumbnail?v=${shot.version}`}
        alt=""
        onError={() => setBroken(true)}
        style={{ width: '100%', height: '100%', objectFit: 'cover', display: 'block' }}
      />
      {shot.moves && near && <Moving shot={shot} />}
    </>
  )
}

const passing = keyframes({ to: { transform: 'translateX(-100%)' } })
/** Seconds in which the frames of a short shot pass. */
const SHORTEST = 1.5
/** Some of its frames, one after the other. */
function Moving({ shot }: { shot: ShotCard }) {
  const { first, last, rate } = shot.frames
  const seconds = Math.max(SHORTEST, (last - first + 1) / rate)
  return (
    <Box
      component="img"
      data-testid="moving"
      src={`/api/shots/${shot.id}/strip?v=${shot.version}`}
      alt=""
      sx={{
        position: 'absolute',
        top: 0,
        left: 0,
        height: '100%',
        width: `${STRIP_PICTURES * 100}%`,
        maxWidth: 'none',
        animation: `${passing} ${seconds}s steps(${STRIP_PICTURES}) infinite`,
        // who wants no motion keeps the picture that stands still
        '@media (prefers-reduced-motion: reduce)': { display: 'none' },
      }}
    />
  )
}

function Rename({ shot, close }: { shot: ShotCard; close(): void }) {
  const act = useAct()
  const [name, setName] = useState(shot.name)
  const [load] = api.useLazyShotQuery()
  const [save] = api.useSaveShotMutation()
  const rename = async (): Promise<void> => {
    const { data, error } = await load(shot.id)
    const document = data && { ...data.document, name: name.trim() }
    const result = document ? await save({ id: shot.id, version: data.version, document }) : { error }
    if (result.error) act(noticed({ text: faultOf(result.error), tone: 'error' }))
    close()
  }
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Rename</DialogTitle>
      <DialogContent>
        <TextField
          autoFocus
          fullWidth
          size="small"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && name.trim() && void rename()}
          slotProps={{ htmlInput: { 'aria-label': 'New name', maxLength: 200 } }}
        />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Cancel
        </Button>
        <Button variant="contained" disabled={!name.trim()} onClick={() => void rename()}>
          Rename
        </Button>
      </DialogActions>
    </Dialog>
  )
}

/** When, as one says it. */
function changed(at: string): string {
  const minutes = (Date.now() - new Date(at).getTime()) / 60000
  if (minutes < 1) return 'just now'
  if (minutes < 60) return `${Math.round(minutes)} min ago`
  if (minutes < 60 * 20) return `${Math.round(minutes / 60)} h ago`
  return new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}
