/** @jest-environment jsdom */
/** Takes as the page shows them: what the server says of each, and what is asked of it. */
import './browser.ts'
import { act, screen, waitFor, within } from '@testing-library/react'
import { freshId, freshName } from '@tangle/core'
import { EXPORTS } from '@tangle/formats'
import { api, faultOf, type Take } from '../src/store/api.ts'
import { Notice } from '../src/frame/Notice.tsx'
import { TakesStep } from '../src/steps/TakesStep.tsx'
import { store } from '../src/store/index.ts'
import { noticed, selected } from '../src/store/session.ts'
import { clockTime, count, duration, megabytes } from '../src/words.ts'
import { show, shotOf } from './page.tsx'

const take = (number: number, more: Partial<Take>): Take => ({
  id: `take${number}`,
  shotId: 'here',
  number,
  status: 'done',
  framesDone: 100,
  fault: null,
  settled: null,
  note: null,
  protected: false,
  host: null,
  slices: 1,
  millisecondsPerFrame: null,
  sweep: null,
  varied: null,
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
let answer: object = {}
/** Takes that were deleted. */
let gone: Take[] = []
let space: object = { takes: 0, quota: null, folder: null }

beforeEach(() => {
  asked = []
  refusal = null
  answer = {}
  gone = []
  space = { takes: 0, quota: null, folder: null }
  globalThis.fetch = ((input: Request) => {
    const { url } = input
    const method = (input as unknown as { init: RequestInit }).init.method ?? 'GET'
    const reply = (status: number, body: unknown) =>
      Promise.resolve(new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })) // prettier-ignore
    if (method === 'GET' && url.endsWith('/shots/here/takes')) return reply(200, takes)
    if (method === 'GET' && url.endsWith('/takes?deleted=1')) return reply(200, gone)
    if (url.endsWith('/space')) return reply(200, space)
    if (method === 'GET') return reply(200, { ...takes[0], document: shotOf({}), facts: [] })
    asked.push(`${method} ${url.replace(/^.*\/api/, '')}`)
    return refusal ? reply(409, refusal) : reply(200, answer)
  }) as typeof fetch
  act(() => {
    store.dispatch(api.util.resetApiState())
    store.dispatch(selected({ take: null }))
    store.dispatch(noticed(null))
  })
})

/** Shows the step over takes, and waits until the server has told of them. */
async function opened(all: Take[], cards = all.length) {
  takes = all
  const made = { count: 0 }
  const page = show(
    shotOf({}),
    <>
      <TakesStep onTake={() => made.count++} />
      <Notice />
    </>,
  )
  if (cards > 0) await waitFor(() => expect(screen.getAllByTestId('take')).toHaveLength(cards))
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
  const { keys, card } = await opened([
    take(2, { status: 'computing', framesDone: 25, millisecondsPerFrame: 1600, settled: 'stored' }),
    take(1, { status: 'waiting', framesDone: 0 }),
  ])
  expect(card(0).getByText('25 of 100 frames · 1.6 s each · 2 min left')).toBeTruthy()
  expect(card(0).getByRole('progressbar').getAttribute('aria-valuenow')).toBe('25')
  expect(card(0).getByText('Starts as an earlier take has settled')).toBeTruthy()
  expect(card(1).getByText('waits for a worker')).toBeTruthy()
  expect(card(0).queryByText(/^Play/)).toBeNull()
  await keys.click(card(0).getByRole('button', { name: 'Cancel' }))
  await keys.click(card(0).getByRole('button', { name: 'Pause' }))
  await keys.click(card(1).getByRole('button', { name: 'Compute next' }))
  expect(asked).toEqual(['POST /takes/take2/cancel', 'POST /takes/take2/pause', 'POST /takes/take1/first'])
})

test('one that is paused goes on; one that is protected can’t be deleted until it is let go', async () => {
  const { keys, card } = await opened([
    take(2, { status: 'paused', framesDone: 25, fault: 'The disk of the database is full' }),
    take(1, { protected: true }),
  ])
  expect(card(0).getByText('25 of 100 frames')).toBeTruthy()
  expect(card(0).getByRole('alert').textContent).toMatch(/disk/)
  await keys.click(card(0).getByRole('button', { name: 'Go on' }))
  expect((card(1).getByRole('button', { name: 'Delete take 1' }) as HTMLButtonElement).disabled).toBe(true)
  await keys.click(card(1).getByRole('button', { name: 'Protect take 1', pressed: true }))
  await keys.click(card(0).getByRole('button', { name: 'Protect take 2', pressed: false }))
  expect(asked).toEqual([
    'POST /takes/take2/resume',
    'POST /takes/take1/unprotect',
    'POST /takes/take2/protect',
  ])
})

test('older ones are cleared away at once, but for the newest three and those that are protected', async () => {
  const old = [4, 3, 2, 1].map((n) => take(n, { protected: n === 2 }))
  const { keys } = await opened(old)
  answer = { takes: ['take1'], bytes: 3 }
  await keys.click(screen.getByRole('button', { name: 'Delete 1 older (3.0 MB)' }))
  expect(await screen.findByText('1 take is deleted')).toBeTruthy()
  await keys.click(screen.getByRole('button', { name: 'Undo' }))
  expect(asked).toEqual(['POST /shots/here/clear', 'POST /takes/take1/restore'])
})

test('takes of a sweep are one card, which tells how far they are', async () => {
  const varied = (value: number) => [{ path: ['seed'], name: 'Seed', value }]
  takes = [
    take(3, { sweep: 's', varied: varied(2), status: 'computing', framesDone: 50 }),
    take(2, { sweep: 's', varied: varied(1) }),
  ]
  const { keys } = await opened(takes, 0)
  const card = within(await screen.findByTestId('sweep'))
  expect(card.getByText('Sweep of 2')).toBeTruthy()
  expect(card.getByText('1 of 2 done')).toBeTruthy()
  expect(card.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('75')
  expect((card.getByRole('button', { name: 'Side by side' }) as HTMLButtonElement).disabled).toBe(false)
  await keys.click(card.getByRole('button', { name: 'Cancel' }))
  await waitFor(() => expect(asked).toEqual(['POST /takes/take3/cancel']))
})

test('a sweep that is deleted comes back whole from the notice', async () => {
  const of = (number: number) =>
    take(number, { sweep: 's', varied: [{ path: ['seed'], name: 'Seed', value: number }] })
  const { keys } = await opened([of(2), of(1)], 0)
  await keys.click(within(await screen.findByTestId('sweep')).getByRole('button', { name: 'Delete' }))
  expect(await screen.findByText('The sweep of 2 is deleted')).toBeTruthy()
  await keys.click(screen.getByRole('button', { name: 'Undo' }))
  expect(asked).toEqual([
    'DELETE /takes/take1',
    'DELETE /takes/take2',
    'POST /takes/take1/restore',
    'POST /takes/take2/restore',
  ])
})

test('a sweep is made of values that are found by their names; what is not right is said', async () => {
  const { keys } = await opened([])
  await keys.click(screen.getByRole('button', { name: 'Sweep…' }))
  const make = () => screen.getByRole('button', { name: /^Make (the|\d+) takes$/ }) as HTMLButtonElement
  expect(make().disabled).toBe(true)
  await keys.type(screen.getByRole('combobox', { name: 'Value 1' }), 'Seed')
  await keys.click((await screen.findAllByRole('option'))[0]!)
  const values = screen.getByLabelText('Values')
  expect(make().textContent).toBe('Make 3 takes')
  await keys.clear(values)
  await keys.type(values, '1, 2.5')
  expect(screen.getByText('must be whole numbers')).toBeTruthy()
  await keys.clear(values)
  await keys.type(values, '1 to 101 in 101')
  expect(make().disabled).toBe(true)
  await keys.clear(values)
  await keys.type(values, '7 8')
  answer = { sweep: 's', takes: [take(2, {}), take(1, {})] }
  await keys.click(make())
  await waitFor(() => expect(asked).toEqual(['POST /shots/here/sweeps']))
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
    expect(screen.getByText((text) => text.startsWith(help))).toBeTruthy()
  }
  await keys.click(screen.getByText('backward'))
  expect(link()).toBe(`/api/takes/take3/export?format=${EXPORTS.at(-1)!.kind}&backward=1`)
  await keys.click(screen.getByText('forward'))
  await keys.click(screen.getByText('cm'))
  await keys.click(screen.getByText('Z up'))
  expect(link()).toBe(`/api/takes/take3/export?format=${EXPORTS.at(-1)!.kind}&unit=cm&up=z`)
  await keys.click(screen.getByText('m'))
  await keys.click(screen.getByText('Y up'))
  await keys.click(card(0).getByRole('button', { name: 'Play take 3' }))
  expect(store.getState().session.selected.take).toBe('take3')
  await keys.click(card(0).getByRole('button', { name: 'Back to the preview' }))
  expect(store.getState().session.selected.take).toBeNull()
})

test('meshes, samples and voxels can be chosen where the format has them', async () => {
  const { keys, card } = await opened([take(3, {})])
  const asks = () => card(0).getByRole('link', { name: 'Download' }).getAttribute('href')!.split('?')[1]
  const choose = async (name: string, option: string): Promise<void> => {
    await keys.click(screen.getByRole('combobox', { name }))
    await keys.click(screen.getByRole('option', { name: option }))
  }
  await choose('Format of the files', 'USD (crate)')
  await choose('Meshes in the files', 'all that are seen')
  await choose('Samples of a frame', '3 a frame')
  expect(asks()).toBe('format=usdc&meshes=all&samples=3')
  // a format that has no place for them is not asked
  await choose('Format of the files', 'PLY sequence')
  expect(asks()).toBe('format=ply&meshes=all')
  expect(screen.queryByRole('combobox', { name: 'Samples of a frame' })).toBeNull()
  await choose('Format of the files', 'OpenVDB sequence')
  expect(asks()).toBe('format=vdb')
  const voxel = screen.getByRole('textbox', { name: 'Length of voxels' })
  await keys.type(voxel, '-1')
  expect(screen.getByText(/A length above 0/)).toBeTruthy()
  expect(asks()).toBe('format=vdb')
  await keys.clear(voxel)
  await keys.type(voxel, '0.05')
  expect(asks()).toBe('format=vdb&voxel=0.05')
})

test('it is written on the server where that has a folder for takes, and said where, or why not', async () => {
  space = { takes: 0, quota: null, folder: '/renders' }
  answer = { folder: '/renders/Page_take3_usdc', files: 2 }
  const { keys, card } = await opened([take(3, {})])
  const button = await screen.findByRole('button', { name: 'Write on the server' })
  await keys.click(button)
  expect(await screen.findByText('/renders/Page_take3_usdc has the take, in 2 files')).toBeTruthy()
  expect(asked).toEqual(['POST /takes/take3/files'])
  refusal = { error: { code: 'there', message: '/renders/Page_take3_usdc is there already' } }
  await keys.click(card(0).getByRole('button', { name: 'Write on the server' }))
  expect(await screen.findByText('/renders/Page_take3_usdc is there already')).toBeTruthy()
})

test('without such a folder there is no such button', async () => {
  const { card } = await opened([take(3, {})])
  await waitFor(() => expect(card(0).getByRole('link', { name: 'Download' })).toBeTruthy())
  expect(card(0).queryByRole('button', { name: 'Write on the server' })).toBeNull()
})

test('slices are told while it is computed', async () => {
  const { card } = await opened([
    take(3, { status: 'computing', framesDone: 40, slices: 4, millisecondsPerFrame: 200 }),
  ])
  expect(card(0).getByText(/40 of 100 frames · in 4 slices · 200 ms each/)).toBeTruthy()
})

test('a deleted one can be brought back from the notice', async () => {
  const { keys } = await opened([take(7, {})])
  await keys.click(screen.getByRole('button', { name: 'Delete take 7' }))
  expect(await screen.findByText('Take 7 is deleted')).toBeTruthy()
  await keys.click(screen.getByRole('button', { name: 'Undo' }))
  expect(asked).toEqual(['DELETE /takes/take7', 'POST /takes/take7/restore'])
  await waitFor(() => expect(screen.queryByText('Take 7 is deleted')).toBeNull())
})

test('what was deleted can be brought back when its notice has gone', async () => {
  gone = [take(3, { bytes: 5 * 2 ** 20 })]
  const { keys } = await opened([take(7, {})])
  await keys.click(await screen.findByRole('button', { name: '1 deleted take…' }))
  await keys.click(await screen.findByRole('menuitem', { name: /^Bring take 3 \(5.0 MB/ }))
  expect(asked).toEqual(['POST /takes/take3/restore'])
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
