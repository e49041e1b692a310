import {
  Alert,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  LinearProgress,
  Typography,
} from '@mui/material'
import { useEffect, useRef, useState } from 'react'
import { engine } from '../engine/engine.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { movieOpened, noticed } from '../store/session.ts'
import type { MovieKind } from './film.ts'
import { BLURS, MOVIE_KINDS } from './kinds.ts'
import { makeMovie } from './makeMovie.ts'
import { MovieFields, sizeOf, type Wanted } from './MovieFields.tsx'

/** Makes a movie of what the stage shows, and gives it to the browser to keep. */
export function MovieDialog() {
  const act = useAct()
  const isOpen = useStore((state) => state.session.movie)
  const close = (): void => void act(movieOpened(false))
  return (
    <Dialog open={isOpen} onClose={close} fullWidth maxWidth="xs" aria-labelledby="movie-title">
      {isOpen && <Movie close={close} />}
    </Dialog>
  )
}

function Movie({ close }: { close(): void }) {
  const act = useAct()
  const { name } = useShot()
  const { first, last, rate } = engine.frames
  const [wanted, setWanted] = useState<Wanted>({
    kind: 'mp4',
    size: '1280 × 720',
    first,
    last,
    background: true,
    burnt: false,
    blur: 'none',
    shutter: 0.5,
    width: 1280,
    height: 720,
  })
  const change = (part: Partial<Wanted>): void => setWanted((before) => ({ ...before, ...part }))
  const kinds = useKinds(...sizeOf(wanted))
  const kind = kinds.includes(wanted.kind) ? wanted.kind : kinds[0]!
  const count = wanted.last - wanted.first + 1
  const { done, fault, run, stop } = useMaking(async (told, signal) => {
    const [width, height] = sizeOf(wanted)
    const title = engine.takeShot ? `${name}, take` : name
    const movie = await makeMovie(
      {
        kind,
        width,
        height,
        rate,
        first: wanted.first,
        last: wanted.last,
        background: wanted.background || kind !== 'png',
        pictures: BLURS[wanted.blur]!,
        shutter: wanted.shutter,
        burnt: wanted.burnt ? title : null,
        name: fileName(name),
        digits: Math.max(4, String(Math.max(Math.abs(first), Math.abs(last))).length),
      },
      told,
      signal,
    )
    keep(movie, `${fileName(name)}.${MOVIE_KINDS[kind].ending}`)
    act(noticed({ text: `The movie is in your downloads: ${count} frames.`, tone: 'info' }))
    close()
  })
  return (
    <>
      <DialogTitle id="movie-title">Make a movie</DialogTitle>
      <DialogContent>
        <Typography sx={{ fontSize: 13, color: 'text.secondary', mb: 1.5 }}>
          Of {engine.takeShot ? 'the take that plays' : 'the preview'}, from where you look at it now.
        </Typography>
        <MovieFields wanted={{ ...wanted, kind }} kinds={kinds} change={change} />
        {kinds.length === 1 && (
          <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
            This browser cannot write videos of this size: frames can be put together elsewhere.
          </Typography>
        )}
        {fault && <Alert severity="error">{fault}</Alert>}
        {done !== null && (
          <>
            <LinearProgress
              variant="determinate"
              value={(100 * done) / count}
              aria-label="Frames done"
              sx={{ mt: 1.5 }}
            />
            <Typography role="status" sx={{ fontSize: 12.5, mt: 0.5 }}>
              {done} of {count} frames
            </Typography>
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={done === null ? close : stop}>{done === null ? 'Close' : 'Cancel'}</Button>
        <Button variant="contained" disabled={done !== null} onClick={run}>
          Make the movie
        </Button>
      </DialogActions>
    </>
  )
}

/** The kinds that this browser can write so large. */
function useKinds(width: number, height: number): MovieKind[] {
  const [kinds, setKinds] = useState<MovieKind[]>(['mp4', 'webm', 'png'])
  useEffect(() => {
    // what writes movies is loaded where it is needed
    void import('./film.ts').then(async ({ kindsHere }) => setKinds(await kindsHere(width, height)))
  }, [width, height])
  return kinds
}

/** Something that takes long and can be stopped: how much is done (null: it is not under way) and why it failed. */
function useMaking(make: (told: (done: number) => void, stop: AbortSignal) => Promise<void>) {
  const [done, setDone] = useState<number | null>(null)
  const [fault, setFault] = useState<string | null>(null)
  const under = useRef<AbortController | null>(null)
  // what nobody waits for any more is stopped
  useEffect(() => () => under.current?.abort(), [])
  const run = (): void => {
    const controller = new AbortController()
    under.current = controller
    setFault(null)
    setDone(0)
    make(setDone, controller.signal)
      .catch((error: unknown) => {
        if (!controller.signal.aborted) setFault(error instanceof Error ? error.message : String(error))
      })
      .finally(() => setDone(null))
  }
  return { done, fault, run, stop: () => under.current?.abort() }
}

/** A name that file systems take. */
const fileName = (name: string): string =>
  name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '') || 'movie'

function keep(movie: Blob, name: string): void {
  const address = URL.createObjectURL(movie)
  const link = document.createElement('a')
  Object.assign(link, { href: address, download: name })
  link.click()
  setTimeout(() => URL.revokeObjectURL(address), 60_000)
}
