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
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberInput } from '../fields/NumberField.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { movieOpened, noticed } from '../store/session.ts'
import type { MovieKind } from './film.ts'
import { MOVIE_KINDS, SIZES } from './kinds.ts'
import { makeMovie } from './makeMovie.ts'

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

interface Wanted {
  kind: MovieKind
  size: string
  first: number
  last: number
  background: boolean
  burnt: boolean
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
  })
  const change = (part: Partial<Wanted>): void => setWanted((before) => ({ ...before, ...part }))
  const kinds = useKinds(wanted.size)
  const kind = kinds.includes(wanted.kind) ? wanted.kind : kinds[0]!
  const count = wanted.last - wanted.first + 1
  const { done, fault, run, stop } = useMaking(async (told, signal) => {
    const [width, height] = SIZES[wanted.size]!
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

interface MovieFieldsProps {
  wanted: Wanted
  kinds: MovieKind[]
  change(part: Partial<Wanted>): void
}

function MovieFields({ wanted, kinds, change }: MovieFieldsProps) {
  const { kind } = wanted
  const { first, last } = engine.frames
  return (
    <>
      <Row label="Kind" help={MOVIE_KINDS[kind].help}>
        <Choices
          name="Kind"
          value={kind}
          options={Object.fromEntries(kinds.map((one) => [one, MOVIE_KINDS[one].label]))}
          onChange={(next) => change({ kind: next as MovieKind })}
        />
      </Row>
      <Row label="Size">
        <Choices
          name="Size"
          value={wanted.size}
          options={Object.fromEntries(Object.keys(SIZES).map((one) => [one, one]))}
          onChange={(size) => change({ size })}
        />
      </Row>
      <Row label="Frames">
        <NumberInput
          name="First frame"
          value={wanted.first}
          range={[first, wanted.last]}
          whole
          onChange={(to) => change({ first: to })}
        />
        –
        <NumberInput
          name="Last frame"
          value={wanted.last}
          range={[wanted.first, last]}
          whole
          onChange={(to) => change({ last: to })}
        />
      </Row>
      {kind === 'png' && (
        <Row label="Background" help="Without it, pictures are see-through where nothing is">
          <Choices
            name="Background"
            value={wanted.background ? 'with' : 'without'}
            options={{ with: 'with', without: 'without' }}
            onChange={(next) => change({ background: next === 'with' })}
          />
        </Row>
      )}
      <Row label="Name and frame" help="In the lower left corner of each picture">
        <Choices
          name="Name and frame"
          value={wanted.burnt ? 'on' : 'off'}
          options={{ off: 'off', on: 'on' }}
          onChange={(next) => change({ burnt: next === 'on' })}
        />
      </Row>
    </>
  )
}

/** The kinds that this browser can write so large. */
function useKinds(size: string): MovieKind[] {
  const [kinds, setKinds] = useState<MovieKind[]>(['mp4', 'webm', 'png'])
  useEffect(() => {
    // what writes movies is loaded where it is needed
    void import('./film.ts').then(async ({ kindsHere }) => setKinds(await kindsHere(...SIZES[size]!)))
  }, [size])
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
