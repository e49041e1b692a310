import { createMean } from './mean.ts'
import { startFilm, type Film, type FilmChoice } from './film.ts'

/** What the page asks for; every question is answered once, in order. */
export type FilmQuestion =
  | { ask: 'start'; choice: FilmChoice }
  /** A picture of a frame; with the last of them the frame is done, the mean of all. */
  | { ask: 'add'; picture: ImageBitmap; frame: number; isLast: boolean }
  | { ask: 'finish' }
export type FilmAnswer = { movie?: Blob } | { fault: string }

let film: Film | undefined
let averaged: ReturnType<typeof createAveraged> | undefined
let last: Promise<void> = Promise.resolve()

async function answer(question: FilmQuestion): Promise<FilmAnswer> {
  if (question.ask === 'start') film = await startFilm(question.choice)
  else if (question.ask === 'finish') return { movie: await film!.finish() }
  else await add(question)
  return {}
}

async function add({ picture, frame, isLast }: FilmQuestion & { ask: 'add' }): Promise<void> {
  if (isLast && !averaged?.begun) await film!.add(picture, frame)
  else {
    averaged ??= createAveraged(picture)
    averaged.add(picture)
    if (isLast) await film!.add(averaged.done(), frame)
  }
  picture.close()
}

/** Pictures whose mean is a frame. */
function createAveraged({ width, height }: ImageBitmap) {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  const mean = createMean(width * height)
  let begun = false
  return {
    get begun() {
      return begun
    },
    add(picture: ImageBitmap): void {
      begun = true
      context.clearRect(0, 0, width, height)
      context.drawImage(picture, 0, 0)
      mean.add(context.getImageData(0, 0, width, height).data)
    },
    done(): OffscreenCanvas {
      begun = false
      const image = context.createImageData(width, height)
      mean.write(image.data)
      context.putImageData(image, 0, 0)
      return canvas
    },
  }
}

globalThis.onmessage = ({ data }: MessageEvent<FilmQuestion>): void => {
  last = last.then(async () => {
    const told = await answer(data).catch((error: unknown) => ({ fault: error instanceof Error ? error.message : String(error) })) // prettier-ignore
    globalThis.postMessage(told)
  })
}
