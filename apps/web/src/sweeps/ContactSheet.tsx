import Pause from '@mui/icons-material/Pause'
import PlayArrow from '@mui/icons-material/PlayArrow'
import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  IconButton,
  Slider,
  Typography,
} from '@mui/material'
import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import type { Take } from '../store/api.ts'
import { useAct, useShot } from '../store/index.ts'
import { noticed } from '../store/session.ts'
import { mended } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { SheetCharts } from './SheetCharts.tsx'
import { drawPoints } from './sheetPicture.ts'
import { variedIn } from './takeWords.ts'
import { createSheetClock, type SheetClock } from './sheetClock.ts'

/** Takes that are seen at once; the rest are on further pages. */
const ON_A_PAGE = 12
const [WIDTH, HEIGHT] = [320, 200]

interface ContactSheetProps {
  takes: Take[]
  close(): void
  onPlay(take: string): void
}

/** Takes of a sweep in motion side by side, their charts over one another; the one that pleases gives its values to the shot. */
export function ContactSheet({ takes: all, close, onPlay }: ContactSheetProps) {
  const act = useAct()
  const [page, setPage] = useState(0)
  const [chosen, setChosen] = useState<string | null>(null)
  const takes = all.slice(page * ON_A_PAGE, (page + 1) * ON_A_PAGE)
  const picked = all.find(({ id }) => id === chosen)
  const use = (): void => {
    act(mended(picked!.varied!)) // the button is there when one is picked
    const undo = { kind: 'edit' } as const
    act(noticed({ text: `The shot has the values of take ${picked!.number}`, tone: 'info', undo }))
    close()
  }
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xl" aria-labelledby="sheet-title">
      <DialogTitle id="sheet-title" sx={{ pb: 0.5 }}>
        Sweep, side by side
      </DialogTitle>
      <DialogContent>
        <Sheet key={page} takes={takes} chosen={chosen} onChoose={setChosen} />
      </DialogContent>
      <DialogActions>
        {all.length > ON_A_PAGE && (
          <Button
            color="inherit"
            onClick={() => setPage((page + 1) % Math.ceil(all.length / ON_A_PAGE))}
            sx={{ mr: 'auto' }}
          >
            Page {page + 1} of {Math.ceil(all.length / ON_A_PAGE)}
          </Button>
        )}
        <Button color="inherit" onClick={close}>
          Close
        </Button>
        <Button disabled={!picked} onClick={() => onPlay(picked!.id)}>
          Play on the stage
        </Button>
        <Button variant="contained" disabled={!picked} onClick={use}>
          Use these values
        </Button>
      </DialogActions>
    </Dialog>
  )
}

interface SheetProps {
  takes: Take[]
  chosen: string | null
  onChoose(take: string): void
}

function Sheet({ takes, chosen, onChoose }: SheetProps) {
  const shot = useShot()
  const [clock] = useState(() => createSheetClock(takes.map(({ id }) => id), shot)) // prettier-ignore
  useEffect(() => clock.start(), [clock])
  useSyncExternalStore(clock.subscribe, () => clock.changes)
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(220px, 1fr))', gap: 1 }}>
        {takes.map((take) => (
          <Cell
            key={take.id}
            take={take}
            clock={clock}
            frame={clock.frame}
            chosen={take.id === chosen}
            onChoose={() => onChoose(take.id)}
          />
        ))}
      </Box>
      <Transport clock={clock} first={shot.frames.first} last={shot.frames.last} />
      <SheetCharts takes={takes} shot={shot} frame={clock.frame} />
    </>
  )
}

interface CellProps {
  take: Take
  clock: SheetClock
  frame: number
  chosen: boolean
  onChoose(): void
}

function Cell({ take, clock, frame, chosen, onChoose }: CellProps) {
  const { stage } = useShot()
  const canvas = useRef<HTMLCanvasElement>(null)
  const points = clock.points(take.id)
  useEffect(() => {
    if (points && canvas.current) drawPoints(canvas.current, points, stage)
  }, [points, frame, stage])
  const fault = clock.faultOf(take.id)
  return (
    <Box
      component="button"
      aria-pressed={chosen}
      aria-label={`Take ${take.number}: ${variedIn(take)}`}
      onClick={onChoose}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        border: 2,
        borderStyle: 'solid',
        borderColor: chosen ? 'primary.main' : 'divider',
        borderRadius: 1,
        overflow: 'hidden',
        '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
      }}
    >
      <Box
        component="canvas"
        ref={canvas}
        width={WIDTH}
        height={HEIGHT}
        sx={{ width: '100%', display: 'block' }}
      />
      <Typography sx={{ fontFamily: MONO, fontSize: 12, px: 0.75, py: 0.25 }}>
        {fault ?? variedIn(take)}
      </Typography>
    </Box>
  )
}

function Transport({ clock, first, last }: { clock: SheetClock; first: number; last: number }) {
  const { frame, playing, seek, setPlaying } = clock
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, my: 0.5 }}>
      <IconButton size="small" aria-label={playing ? 'Pause' : 'Play'} onClick={() => setPlaying(!playing)}>
        {playing ? <Pause /> : <PlayArrow />}
      </IconButton>
      <Slider
        size="small"
        aria-label="Frame"
        min={first}
        max={last}
        value={frame}
        onChange={(_, next) => {
          setPlaying(false)
          seek(next as number)
        }}
      />
      <Typography sx={{ fontFamily: MONO, fontSize: 12, width: 48, textAlign: 'right' }}>{frame}</Typography>
    </Box>
  )
}
