/** @jest-environment jsdom */
/** Edits are saved, and what the page says of it is true. */
import { act, screen, waitFor } from '@testing-library/react'
import { show, shotOf, undo } from './page.tsx'
import { markSaved, saveNow, watchShot } from '../src/store/autosave.ts'
import { store } from '../src/store/index.ts'
import { opened } from '../src/store/session.ts'
import { loaded, set } from '../src/store/shot.ts'

interface Put {
  url: string
  body: { version: number; document: { name: string } }
  keepalive: boolean
  answer(status: number, body: object): void
}
let puts: Put[] = []
let stop = (): void => undefined

/** A server that answers when the test says so. */
beforeEach(() => {
  puts = []
  globalThis.fetch = ((input: Request | string, init: RequestInit = {}) =>
    new Promise((resolve) => {
      const request = typeof input === 'string' ? { url: input, keepalive: init.keepalive, text: () => Promise.resolve(String(init.body)) } : input.clone() // prettier-ignore
      void request.text().then((text) => {
        const answer = (status: number, body: object): void =>
          resolve(
            new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } }),
          )
        puts.push({ url: request.url, body: JSON.parse(text || '{}') as Put['body'], keepalive: request.keepalive === true, answer }) // prettier-ignore
      })
    })) as typeof fetch
  show(shotOf({}), <span>page</span>)
  markSaved()
  stop = watchShot()
})
afterEach(async () => {
  stop()
  // what is still asked is answered, so that the next test begins with nothing under way
  const done = saveNow()
  await new Promise((resolve) => setTimeout(resolve, 20))
  for (const put of puts) put.answer(200, { version: 9 })
  await done
})

const rename = (name: string): void => act(() => void store.dispatch(set({ path: ['name'], value: name })))
const state = (): string => store.getState().session.save.state
const asked = (count: number) => waitFor(() => expect(puts).toHaveLength(count), { timeout: 3000 })

test('an edit is "edited" at once, "saving" while it is under way, and "saved" only when the server has it', async () => {
  expect(screen.getByText('page')).toBeTruthy()
  expect(state()).toBe('saved')
  rename('One')
  expect(state()).toBe('edited')
  const done = saveNow()
  await asked(1)
  expect([state(), puts[0]!.body.version, puts[0]!.body.document.name]).toEqual(['saving', 1, 'One'])
  // an edit meanwhile: the answer does not make it saved
  rename('Two')
  puts[0]!.answer(200, { version: 2 })
  await done
  expect(state()).toBe('edited')
  const second = saveNow()
  await asked(2)
  expect(puts[1]!.body).toMatchObject({ version: 2, document: { name: 'Two' } })
  puts[1]!.answer(200, { version: 3 })
  await second
  expect([state(), store.getState().session.version]).toEqual(['saved', 3])
})

test('an edit that is undone needs no saving, and is not called edited', () => {
  rename('Other')
  expect(state()).toBe('edited')
  undo()
  expect(state()).toBe('saved')
})

test('a server that fails is told, asked again, and nothing is lost', async () => {
  rename('Kept')
  const done = saveNow()
  await asked(1)
  puts[0]!.answer(500, { error: 'the database is away' })
  await done
  expect(state()).toBe('failed')
  const again = saveNow()
  await asked(2)
  expect(puts[1]!.body.document.name).toBe('Kept')
  puts[1]!.answer(200, { version: 2 })
  await again
  expect(state()).toBe('saved')
})

test('another window has changed it: a conflict stays one until it is decided', async () => {
  rename('Mine')
  const done = saveNow()
  await asked(1)
  puts[0]!.answer(409, { error: 'another window' })
  await done
  expect(state()).toBe('conflict')
  rename('Mine still')
  await saveNow()
  expect([state(), puts]).toEqual(['conflict', [expect.anything()]])
})

test('a save that waits for one that meets a conflict is not sent', async () => {
  rename('Mine')
  const first = saveNow()
  rename('Mine, later')
  const second = saveNow()
  await asked(1)
  puts[0]!.answer(409, { error: 'another window' })
  await Promise.all([first, second])
  expect([state(), puts]).toEqual(['conflict', [expect.anything()]])
})

test('the page is left: what is not saved goes with a request that outlives it', async () => {
  rename('Last words')
  act(() => void dispatchEvent(new Event('pagehide')))
  // on a machine with much to do the save that waits comes besides
  await waitFor(() => expect(puts.length).toBeGreaterThan(0))
  expect(puts[0]).toMatchObject({ keepalive: true, body: { version: 1, document: { name: 'Last words' } } })
  expect(puts[0]!.url).toMatch(/\/api\/shots\/here$/)
})

test('nothing to save: leaving asks and sends nothing', async () => {
  const event = new Event('beforeunload', { cancelable: true })
  dispatchEvent(event)
  dispatchEvent(new Event('pagehide'))
  await new Promise((resolve) => setTimeout(resolve, 30))
  expect([event.defaultPrevented, puts]).toEqual([false, []])
})

test('what is too large to outlive the page, or still under way, makes the browser ask first', async () => {
  const leaves = (): boolean => {
    const event = new Event('beforeunload', { cancelable: true })
    dispatchEvent(event)
    return event.defaultPrevented
  }
  rename('small')
  expect(leaves()).toBe(false)
  const strokes = Array.from({ length: 4000 }, (_, i) => ({ points: [[i, i, i]] }))
  act(() => void store.dispatch(set({ path: ['masks', 0, 'strokes'], value: strokes })))
  expect(leaves()).toBe(true)
})

test('the last edits of a shot are saved to it, though another is opened before the server answers', async () => {
  rename('First')
  void saveNow()
  await asked(1)
  rename('First, again')
  stop()
  // the next shot comes while the first save is under way
  act(() => {
    store.dispatch(loaded(shotOf({}, { name: 'Next' })))
    store.dispatch(opened({ shotId: 'next', version: 7 }))
    markSaved()
  })
  puts[0]!.answer(200, { version: 2 })
  await asked(2)
  expect(puts[1]!.url).toMatch(/\/api\/shots\/here$/)
  expect(puts[1]!.body).toMatchObject({ version: 2, document: { name: 'First, again' } })
  puts[1]!.answer(200, { version: 3 })
  await saveNow()
  expect([store.getState().session.version, state()]).toEqual([7, 'saved'])
})
