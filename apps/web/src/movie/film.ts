/** Writes pictures as a movie, frame by frame; in a worker (film.worker.ts), for encoding takes long. */
import { Zip, ZipPassThrough } from 'fflate'
import {
  BufferTarget,
  CanvasSource,
  canEncodeVideo,
  Mp4OutputFormat,
  Output,
  QUALITY_VERY_HIGH,
  WebMOutputFormat,
  type VideoCodec,
} from 'mediabunny'

export type MovieKind = 'mp4' | 'webm' | 'png'

export interface FilmChoice {
  kind: MovieKind
  /** Pixels; of videos even. */
  width: number
  height: number
  /** Frames a second. */
  rate: number
  /** Of the files in a ZIP: their name before the number, and how many digits that has. */
  name: string
  digits: number
  /** Words in the picture, beside the frame; null: none. */
  burnt: string | null
}

export interface Film {
  /** Takes the next picture, of a frame of the shot. */
  add(picture: CanvasImageSource, frame: number): Promise<void>
  finish(): Promise<Blob>
  cancel(): Promise<void>
}

const CODECS: Record<'mp4' | 'webm', VideoCodec> = { mp4: 'avc', webm: 'vp9' }

/** The kinds that this browser can write. */
export async function kindsHere(width: number, height: number): Promise<MovieKind[]> {
  const video = typeof VideoEncoder === 'undefined' ? [] : (['mp4', 'webm'] as const)
  const able = await Promise.all(
    video.map((kind) => canEncodeVideo(CODECS[kind], { width, height }).catch(() => false)),
  )
  return [...video.filter((_, n) => able[n]), 'png']
}

/** @throws where the browser cannot write such a movie */
export async function startFilm(choice: FilmChoice): Promise<Film> {
  const canvas = new OffscreenCanvas(choice.width, choice.height)
  const context = canvas.getContext('2d', { willReadFrequently: choice.kind === 'png' })!
  const draw = (picture: CanvasImageSource, frame: number): void => {
    context.clearRect(0, 0, choice.width, choice.height)
    context.drawImage(picture, 0, 0, choice.width, choice.height)
    if (choice.burnt !== null) burn(context, choice.burnt, frame, choice)
  }
  return choice.kind === 'png' ? pngs(choice, canvas, draw) : video(choice, canvas, draw)
}

type Draw = (picture: CanvasImageSource, frame: number) => void

async function video({ kind, rate }: FilmChoice, canvas: OffscreenCanvas, draw: Draw): Promise<Film> {
  const target = new BufferTarget()
  const output = new Output({
    format: kind === 'mp4' ? new Mp4OutputFormat({ fastStart: 'in-memory' }) : new WebMOutputFormat(),
    target,
  })
  const source = new CanvasSource(canvas, {
    codec: CODECS[kind as 'mp4' | 'webm'],
    bitrate: QUALITY_VERY_HIGH,
  })
  output.addVideoTrack(source, { frameRate: rate })
  await output.start()
  let count = 0
  return {
    async add(picture, frame) {
      draw(picture, frame)
      await source.add(count++ / rate, 1 / rate)
    },
    async finish() {
      await output.finalize()
      return new Blob([target.buffer!], { type: `video/${kind}` })
    },
    cancel: () => output.cancel(),
  }
}

/** Pictures as they are, see-through where nothing is, in a ZIP. */
function pngs({ name, digits }: FilmChoice, canvas: OffscreenCanvas, draw: Draw): Film {
  const pieces: Uint8Array<ArrayBuffer>[] = []
  let fault: Error | null = null
  const zip = new Zip((failed, piece) => {
    fault ??= failed
    pieces.push(piece.slice())
  })
  return {
    async add(picture, frame) {
      draw(picture, frame)
      const bytes = await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer()
      const file = new ZipPassThrough(`${name}.${numberOf(frame, digits)}.png`)
      zip.add(file)
      file.push(new Uint8Array(bytes), true)
      if (fault) throw fault
    },
    finish() {
      zip.end()
      return Promise.resolve(new Blob(pieces, { type: 'application/zip' }))
    },
    cancel: () => Promise.resolve(zip.terminate()),
  }
}

const numberOf = (frame: number, digits: number): string =>
  `${frame < 0 ? '-' : ''}${String(Math.abs(frame)).padStart(digits, '0')}`

/** Name and frame in the lower left corner. */
function burn(
  context: OffscreenCanvasRenderingContext2D,
  words: string,
  frame: number,
  { height, digits }: FilmChoice,
): void {
  const size = Math.max(11, Math.round(height / 40))
  const said = `${words}  ${numberOf(frame, digits)}`
  context.font = `${size}px monospace`
  context.textBaseline = 'middle'
  const [left, middle] = [size, height - 1.6 * size]
  context.fillStyle = 'rgba(18, 14, 26, 0.6)'
  context.fillRect(left - 0.5 * size, middle - 0.8 * size, context.measureText(said).width + size, 1.6 * size)
  context.fillStyle = '#efe8dc'
  context.fillText(said, left, middle)
}
