/** Makes a movie of what the stage shows: each frame is waited for, drawn at the size asked for, and handed to a worker. */
import { engine } from '../engine/engine.ts'
import { stage } from '../stage/Stage.tsx'
import type { FilmChoice } from './film.ts'
import { samplesOf } from './samples.ts'
import type { FilmAnswer, FilmQuestion } from './film.worker.ts'

export interface MovieChoice extends FilmChoice {
  first: number
  last: number
  /** Whether what is around is in it: the backdrop, the ground and the rings. */
  background: boolean
  /** Pictures that each frame is the mean of, and for how many frames the shutter is open. */
  pictures: number
  shutter: number
}

/** Milliseconds between looks whether a frame is there, and for how long none may come. */
const LOOK = 15
const PATIENCE = 120_000

/**
 * @param told hears how many frames are done
 * @throws where a frame does not come or the movie cannot be written; when it is stopped
 */
export async function makeMovie(
  choice: MovieChoice,
  told: (frames: number) => void,
  stop: AbortSignal,
): Promise<Blob> {
  const film = ask(stop)
  const before = engine.frame
  const samples = samplesOf(choice.pictures, choice.shutter)
  engine.pause()
  try {
    await film({ ask: 'start', choice })
    // one is encoded while the next is drawn
    let under: Promise<FilmAnswer> = Promise.resolve({})
    for (let frame = choice.first; frame <= choice.last; frame++) {
      engine.seek(frame)
      await isThere(frame, stop)
      for (const [n, sample] of samples.entries()) {
        const { width, height, background } = choice
        const picture = await stage.world!.film(width, height, { background, alone: false, ...sample })
        await under
        under = film({ ask: 'add', picture, frame, isLast: n === samples.length - 1 }, [picture])
        stop.throwIfAborted()
      }
      told(frame - choice.first)
    }
    await under
    const answer = await film({ ask: 'finish' })
    return 'movie' in answer ? answer.movie! : new Blob()
  } finally {
    film.end()
    stage.world?.filmed()
    engine.seek(before)
  }
}

/** Waits until all of the playhead's frame is here. */
async function isThere(frame: number, stop: AbortSignal): Promise<void> {
  let reached = engine.computedTo()
  let latest = performance.now() + PATIENCE
  while (!engine.isWhole()) {
    stop.throwIfAborted()
    if (engine.fault) throw new Error(engine.fault)
    const now = engine.computedTo()
    // as long as frames are computed, there is hope
    if (now !== reached) latest = performance.now() + PATIENCE
    reached = now
    if (performance.now() > latest)
      throw new Error(`Frame ${frame} does not come. Make a take, and a movie of that.`)
    await new Promise((resolve) => setTimeout(resolve, LOOK))
  }
  stop.throwIfAborted()
}

/** A worker that is asked one thing after the other. */
function ask(stop: AbortSignal) {
  const worker = new Worker(new URL('./film.worker.ts', import.meta.url), { type: 'module' })
  const waiting: { resolve(answer: FilmAnswer): void; reject(fault: unknown): void }[] = []
  const failAll = (fault: unknown): void => waiting.splice(0).forEach(({ reject }) => reject(fault))
  worker.onmessage = ({ data }: MessageEvent<FilmAnswer>) => {
    const one = waiting.shift()
    if ('fault' in data) one?.reject(new Error(data.fault))
    else one?.resolve(data)
  }
  worker.onerror = ({ message }) =>
    failAll(new Error(message || 'The movie cannot be written in this browser.'))
  stop.addEventListener('abort', () => failAll(stop.reason))
  const film = (question: FilmQuestion, moved: Transferable[] = []): Promise<FilmAnswer> => {
    const answered = new Promise<FilmAnswer>((resolve, reject) => waiting.push({ resolve, reject }))
    // it is waited for later, or not at all once another thing has failed
    answered.catch(() => undefined)
    worker.postMessage(question, moved)
    return answered
  }
  return Object.assign(film, { end: () => worker.terminate() })
}
