/** @jest-environment jsdom */
/** Takes as the page shows them: what the server says of each, and what is asked of it. */
import './browser.ts'
import { act, screen, waitFor, within } from '@testing-library/react'
import { EXPORTS } from '@tangle/formats'
import { api, faultOf, type Take } from '../src/store/api.ts'
import { Notice } from '../src/frame/Notice.tsx'
import { TakesStep } from '../src/steps/TakesStep.tsx'
import { store } from '../src/store/index.ts'
import { noticed, selected } from '../src/store/session.ts'
import { clockTime, count, duration, freshId, freshName, megabytes } from '../src/words.ts'
import { show, shotOf } from './page.tsx'

const take = (number: number, more: Partial<Take>): Take => ({
  id: `take${number}`,
  shotId: 'here',
  number,
  status: 'done',
  framesDone: 100,
  fault: null,
  settled: null,
  createdAt: '2026-03-01T10:00:00Z',
  startedAt: null,
  endedAt: null,
  bytes: 3 * 2 ** 20,
  frames: { first: 1, last: 100, rate: 24 },
  name: 'Page',
  ...more,
})
let takes: Take[] = []
let asked: string[] = []
/** What the next request that changes something is answered. */
let refusal: object | null = null

beforeEach(() => {
  asked = []
  refusal = null
  globalThis.fetch = ((input: Request) => {
    const { url } = input
    const method = (input as unknown as { init: RequestInit }).init.method ?? 'GET'
    const answer = (status: number, body: unknown) =>
      Promise.resolve(new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })) // prettier-ignore
    if (method === 'GET' && url.endsWith('/shots/here/takes')) return answer(200, takes)
    if (method === 'GET') return answer(200, { ...takes[0], document: shotOf({}), facts: [] })
    asked.push(`${method} ${url.replace(/^.*\/api/, '')}`)
    return refusal ? answer(409, refusal) : answer(200, {})
  }) as typeof fetch
  act(() => {
    store.dispatch(api.util.resetApiState())
    store.dispatch(selected({ take: null }))
    store.dispatch(noticed(null))
  })
})

/** Shows the step over takes, and waits until the server has told of them. */
async function opened(all: Take[]) {
  takes = all
  const made = { count: 0 }
  const page = show(
    shotOf({}),
    <>
      <TakesStep onTake={() => made.count++} />
      <Notice />
    </>,
  )
  if (all.length > 0) await waitFor(() => expect(screen.getAllByTestId('take')).toHaveLength(all.length))
  const card = (n: number) => within(screen.getAllByTestId('take')[n]!)
  return { ...page, made, card }
}

test('without one it says what a take is for; the button makes one', async () => {
  const { keys, made } = await opened([])
  expect(await screen.findByText(/No take yet/)).toBeTruthy()
  await keys.click(screen.getByRole('button', { name: 'Make a take' }))
  expect(made.count).toBe(1)
  expect(screen.queryByText('Direction')).toBeNull()
})

test('one that computes tells how far it is and how long it needs, and is cancelled', async () => {
  const startedAt = new Date(Date.now() - 30_000).toISOString()
  const { keys, card } = await opened([
    take(2, { status: 'computing', framesDone: 25, startedAt, settled: 'stored' }),
    take(1, { status: 'waiting', framesDone: 0 }),
  ])
  // a quarter took half a minute: three more are to come
  expect(card(0).getByText(/^25 of 100 frames · 2 min left$/)).toBeTruthy()
  expect(card(0).getByRole('progressbar').getAttribute('aria-valuenow')).toBe('25')
  expect(card(0).getByText('Starts as an earlier take has settled')).toBeTruthy()
  expect(card(1).getByText('waits for a worker')).toBeTruthy()
  expect(card(0).queryByText('Play')).toBeNull()
  await keys.click(card(0).getByRole('button', { name: 'Cancel' }))
  expect(asked).toEqual(['POST /takes/take2/cancel'])
})

test('one that failed says why and is tried again; what the server refuses is told', async () => {
  const { keys, card } = await opened([take(1, { status: 'failed', fault: 'No memory left for 90 MB more' })])
  expect(card(0).getByRole('alert').textContent).toBe('No memory left for 90 MB more')
  expect(card(0).queryByText(/format=/)).toBeNull()
  refusal = { error: { code: 'running', message: 'This take is computing already' } }
  await keys.click(card(0).getByRole('button', { name: 'Try again' }))
  expect(await screen.findByText('This take is computing already')).toBeTruthy()
})

test('a finished one is played, written in every format, forward or backward', async () => {
  const { keys, card } = await opened([take(3, {})])
  expect(card(0).getByText(/1–100 · 3\.0 MB ·/)).toBeTruthy()
  const link = () => card(0).getByRole('link', { name: 'Download' }).getAttribute('href')
  expect(link()).toBe('/api/takes/take3/export?format=usdc')
  for (const { kind, label, help } of EXPORTS) {
    await keys.click(screen.getByRole('combobox', { name: 'Format of the files' }))
    await keys.click(screen.getByRole('option', { name: label }))
    expect(link()).toBe(`/api/takes/take3/export?format=${kind}`)
    expect(screen.getByText(help)).toBeTruthy()
  }
  await keys.click(screen.getByText('backward'))
  expect(link()).toBe(`/api/takes/take3/export?format=${EXPORTS.at(-1)!.kind}&backward=1`)
  await keys.click(screen.getByText('forward'))
  await keys.click(card(0).getByRole('button', { name: 'Play' }))
  expect(store.getState().session.selected.take).toBe('take3')
  await keys.click(card(0).getByRole('button', { name: 'Back to the preview' }))
  expect(store.getState().session.selected.take).toBeNull()
})

test('a deleted one can be brought back from the notice', async () => {
  const { keys } = await opened([take(7, {})])
  await keys.click(screen.getByRole('button', { name: 'Delete take 7' }))
  expect(await screen.findByText('Take 7 is deleted')).toBeTruthy()
  await keys.click(screen.getByRole('button', { name: 'Undo' }))
  expect(asked).toEqual(['DELETE /takes/take7', 'POST /takes/take7/restore'])
  await waitFor(() => expect(screen.queryByText('Take 7 is deleted')).toBeNull())
})

test('a take that could not be deleted is not said to be', async () => {
  const { keys } = await opened([take(7, {})])
  refusal = { error: { code: 'broken', message: 'The database is away' } }
  await keys.click(screen.getByRole('button', { name: 'Delete take 7' }))
  expect(await screen.findByText('The database is away')).toBeTruthy()
  expect(screen.queryByText('Take 7 is deleted')).toBeNull()
})

test('a fault is a sentence, whatever failed', () => {
  expect(faultOf({ status: 422, data: { error: { message: 'frames.last must be later' } } })).toBe('frames.last must be later') // prettier-ignore
  expect(faultOf({ status: 'FETCH_ERROR' })).toMatch(/is Tangle still running/)
  expect(faultOf({ status: 500, data: 'oops' })).toBe('The request failed')
})

test('numbers, sizes, times and names in words', () => {
  expect([0, 999, 1000, 1234567].map(count)).toEqual(['0', '999', '1\u202f000', '1\u202f234\u202f567'])
  expect([0, 2 ** 20, 9.96 * 2 ** 20, 10 * 2 ** 20, 2 ** 30].map(megabytes)).toEqual(['0.0 MB', '1.0 MB', '10.0 MB', '10 MB', '1.0 GB']) // prettier-ignore
  expect([0.2, 59.4, 60, 3599, 5400].map(duration)).toEqual(['1 s', '59 s', '1 min', '60 min', '1.5 h'])
  expect(clockTime('2026-03-01T10:05:00')).toBe('10:05')
  expect(freshId('Größe (mm)', [])).toBe('gr-e-mm')
  expect(freshId('???', ['one'])).toBe('one-2')
  expect(freshName('Dust', ['Dust', 'Dust 2'])).toBe('Dust 3')
  // what a document takes, however long the name of a file is
  const long = 'x'.repeat(300)
  const [name, id] = [freshName(long, []), freshId(long, [])]
  expect([name.length, freshName(long, [name]).length <= 200]).toEqual([200, true])
  expect([id.length <= 80, freshId(long, [id]).length <= 80]).toEqual([true, true])
  expect(freshName(long, [name])).not.toBe(name)
})
