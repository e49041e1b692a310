import { startFilm, type Film, type FilmChoice } from './film.ts'

/** What the page asks for; every question is answered once, in order. */
export type FilmQuestion =
  | { ask: 'start'; choice: FilmChoice }
  | { ask: 'add'; picture: ImageBitmap; frame: number }
  | { ask: 'finish' }
export type FilmAnswer = { movie?: Blob } | { fault: string }

let film: Film | undefined
let last: Promise<void> = Promise.resolve()

async function answer(question: FilmQuestion): Promise<FilmAnswer> {
  if (question.ask === 'start') film = await startFilm(question.choice)
  else if (question.ask === 'finish') return { movie: await film!.finish() }
  else {
    await film!.add(question.picture, question.frame)
    question.picture.close()
  }
  return {}
}

globalThis.onmessage = ({ data }: MessageEvent<FilmQuestion>): void => {
  last = last.then(async () => {
    const told = await answer(data).catch((error: unknown) => ({ fault: error instanceof Error ? error.message : String(error) })) // prettier-ignore
    globalThis.postMessage(told)
  })
}
