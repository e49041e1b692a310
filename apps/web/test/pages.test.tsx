/** @jest-environment jsdom */
/** The list of shots, the frame around a shot, and meshes as they are brought. */
import './browser.ts'
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react'
import { MemoryRouter, Route, Routes, useLocation } from 'react-router'
import { Notice } from '../src/frame/Notice.tsx'
import { StepThread } from '../src/frame/StepThread.tsx'
import { TopBar } from '../src/frame/TopBar.tsx'
import { ShotsPage } from '../src/pages/ShotsPage.tsx'
import { MeshesStep } from '../src/steps/MeshesStep.tsx'
import { addStored } from '../src/steps/meshFiles.ts'
import { api, type ShotCard, type StoredMesh } from '../src/store/api.ts'
import { store } from '../src/store/index.ts'
import { noticed, selected } from '../src/store/session.ts'
import { set } from '../src/store/shot.ts'
import { button, expectSound, show, shotOf, undo } from './page.tsx'

const card = (id: string, name: string, minutes: number): ShotCard => ({
  id,
  name,
  version: 3,
  changedAt: new Date(Date.now() - minutes * 60_000).toISOString(),
  frames: { first: 5, last: 104, rate: 25 },
  populations: 1,
  pictured: true,
})
const sample = {
  asset: `sha256:${'9'.repeat(64)}`,
  name: 'Bell',
  file: 'bell.obj',
  bytes: 9,
  sample: true,
} as StoredMesh
let cards: ShotCard[] = []
let asked: { method: string; path: string; body: string }[] = []
/** Cards of shots that were deleted. */
let gone: typeof cards = []
let refusal: { status: number; message: string } | null = null

beforeEach(() => {
  asked = []
  refusal = null
  gone = []
  cards = [card('a', 'Beacon', 0.2), card('b', 'Snow', 30), card('c', 'Old one', 60 * 24 * 9)]
  globalThis.fetch = (async (input: Request) => {
    const path = input.url.replace(/^.*\/api/, '')
    const method = (input as unknown as { init: RequestInit }).init.method ?? 'GET'
    const answer = (status: number, body: unknown) =>
      new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })
    if (method === 'GET' && path === '/shots') return answer(200, cards)
    if (method === 'GET' && path === '/shots?deleted=1') return answer(200, gone)
    if (method === 'GET' && path === '/meshes') return answer(200, [sample])
    if (method === 'GET' && path.endsWith('/takes')) return answer(200, [{}, {}])
    if (refusal) return answer(refusal.status, { error: { message: refusal.message } })
    if (method === 'GET') return answer(200, { id: 'a', name: 'Beacon', version: 3, document: shotOf({}) })
    asked.push({ method, path, body: await input.text() })
    return answer(201, { id: 'fresh' })
  }) as typeof fetch
  act(() => {
    store.dispatch(api.util.resetApiState())
    store.dispatch(noticed(null))
    store.dispatch(selected({ mesh: null }))
  })
})

function Where() {
  const { pathname, state } = useLocation()
  return (
    <output aria-label="address" data-state={JSON.stringify(state)}>
      {pathname}
    </output>
  )
}
const at = (): string => screen.getByLabelText('address').textContent ?? ''
const inRouter = (path: string, part: React.ReactNode) => (
  <MemoryRouter initialEntries={[path]}>
    <Routes>
      <Route path="*" element={part} />
    </Routes>
    <Where />
    <Notice />
  </MemoryRouter>
)

describe('the shots', () => {
  async function opened() {
    const page = show(shotOf({}), inRouter('/', <ShotsPage />))
    await waitFor(() => expect(screen.getAllByTestId('shot-card')).toHaveLength(cards.length))
    const more = async (name: string, what: string): Promise<void> => {
      await page.keys.click(button(`More for ${name}`))
      await page.keys.click(await screen.findByRole('menuitem', { name: what }))
    }
    return { ...page, more }
  }

  test('are told with their length, rate and age; without a picture it is said, and none is asked for', async () => {
    cards[1]!.pictured = false
    await opened()
    expect(screen.getAllByText('no picture yet')).toHaveLength(1)
    expect(screen.getAllByTestId('shot-card')[1]!.querySelector('img')).toBeNull()
    const [first, second, third] = screen.getAllByTestId('shot-card').map((one) => one.textContent ?? '')
    expect(first).toMatch(/Beacon100 frames · 25\/s · just now/)
    expect(second).toMatch(/30 min ago/)
    expect(third).toMatch(/\d+ \w{3} \d{4}/)
    fireEvent.error(screen.getAllByTestId('shot-card')[0]!.querySelector('img')!)
    expect(screen.getAllByText('no picture yet')).toHaveLength(2)
  })

  test('are opened by picture and by name, and begun by a button', async () => {
    const { keys } = await opened()
    const [first] = screen.getAllByTestId('shot-card')
    const links = first!.querySelectorAll('a')
    expect([...links].map((one) => one.getAttribute('href'))).toEqual(['/shots/a/motion', '/shots/a/motion'])
    await keys.click(button('New shot'))
    await waitFor(() => expect(at()).toBe('/shots/fresh/meshes'))
    expect(asked).toEqual([{ method: 'POST', path: '/shots', body: '{"name":"New shot"}' }])
  })

  test('are begun by a recipe: the page of a new one opens with the list of them', async () => {
    const { keys } = await opened()
    await keys.click(button('Start from a recipe…'))
    await waitFor(() => expect(at()).toBe('/shots/fresh/meshes'))
    expect(screen.getByLabelText('address').getAttribute('data-state')).toBe('{"recipe":""}')
  })

  test('are renamed, copied, deleted and brought back', async () => {
    const { keys, more } = await opened()
    await more('Beacon', 'Rename…')
    const field = await screen.findByRole('textbox', { name: 'New name' })
    await keys.clear(field)
    expect(screen.getByRole('button', { name: 'Rename' })).toHaveProperty('disabled', true)
    await keys.type(field, '  Lighthouse {Enter}')
    await waitFor(() => expect(asked).toHaveLength(1))
    expect(asked[0]).toMatchObject({ method: 'PUT', path: '/shots/a' })
    expect(JSON.parse(asked[0]!.body)).toMatchObject({ version: 3, document: { name: 'Lighthouse' } })
    await waitFor(() => expect(screen.queryByRole('textbox', { name: 'New name' })).toBeNull())
    await more('Snow', 'Duplicate')
    await more('Snow', 'Delete')
    expect(await screen.findByText('Snow is deleted')).toBeTruthy()
    await keys.click(button('Undo'))
    expect(asked.slice(1).map(({ method, path }) => `${method} ${path}`)).toEqual(['POST /shots/b/duplicate', 'DELETE /shots/b', 'POST /shots/b/restore']) // prettier-ignore
  })

  test('that were deleted long ago are listed, and one of them comes back', async () => {
    gone = [card('d', 'Tide', 90), card('e', 'Fog', 90)]
    const { keys } = await opened()
    await keys.click(await screen.findByRole('button', { name: '2 deleted shots…' }))
    await keys.click(await screen.findByRole('menuitem', { name: /^Bring Fog/ }))
    expect(asked.map(({ method, path }) => `${method} ${path}`)).toEqual(['POST /shots/e/restore'])
  })

  test.each(['Rename…', 'Duplicate', 'Delete'])(
    'what the server refuses is told, and not said to be done: %s',
    async (what) => {
      const { keys, more } = await opened()
      refusal = { status: 503, message: 'The database is away: it is tried again' }
      await more('Snow', what)
      if (what === 'Rename…') {
        const field = await screen.findByRole('textbox', { name: 'New name' })
        await keys.type(field, '!{Enter}')
      }
      expect(await screen.findByText(/The database is away/)).toBeTruthy()
      expect(screen.queryByText(/is deleted/)).toBeNull()
    },
  )

  test('without any it says what to do', async () => {
    cards = []
    show(shotOf({}), inRouter('/', <ShotsPage />))
    expect(await screen.findByText(/Make a new one/)).toBeTruthy()
  })
})

describe('the frame of a shot', () => {
  test('steps tell what is in them, and which is open', async () => {
    show(shotOf({ influences: [{ id: 'g', kind: 'gravity', weights: { Loose: 1 } }, { id: 'd', kind: 'drag', weights: { Loose: 1 }, muted: true }] }), inRouter('/shots/here/motion', <StepThread step="motion" />)) // prettier-ignore
    const steps = within(screen.getByRole('navigation', { name: 'Steps' })).getAllByRole('link')
    await waitFor(() => expect(steps.map((one) => one.textContent)).toEqual(['Meshes2', 'Masks1', 'Births0 births', 'Motion1 acting', 'Lookpoints', 'Takes2'])) // prettier-ignore
    expect(steps.map((one) => one.getAttribute('aria-current'))).toEqual([
      null,
      null,
      null,
      'step',
      null,
      null,
    ])
    expect(steps[4]!.getAttribute('href')).toBe('/shots/here/look')
  })

  test('the bar names the shot, undoes and redoes, opens the finder and makes a take', async () => {
    const made = { count: 0 }
    const page = show(shotOf({}), inRouter('/shots/here/motion', <TopBar onTake={() => made.count++} />))
    expect(button('Undo')).toHaveProperty('disabled', true)
    const name = screen.getByRole('textbox', { name: 'Name of the shot' })
    await page.keys.clear(name)
    await page.keys.type(name, 'Dusk{Enter}')
    expect(page.document().name).toBe('Dusk')
    await page.keys.click(button('Undo'))
    expect(page.document().name).toBe('Page')
    await page.keys.click(button('Redo'))
    expect(page.document().name).toBe('Dusk')
    // an empty name is none
    await page.keys.clear(name)
    await page.keys.type(name, '   {Enter}')
    expect(page.document().name).toBe('Dusk')
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Dusk')
    await page.keys.click(button(/Find a command/))
    expect(store.getState().session.finder).toBe(true)
    await page.keys.click(button('Make a take'))
    expect(made.count).toBe(1)
  })
})

test('undo says what it undoes, and the list of what happened leads back to any of it', async () => {
  const page = show(shotOf({}), inRouter('/shots/here/motion', <TopBar onTake={() => undefined} />))
  const put = (path: (string | number)[], value: unknown): void =>
    act(() => void store.dispatch(set({ path, value })))
  put(['frames', 'last'], 50)
  put(['meshes', 0, 'visible'], false)
  put(['populations', 0, 'name'], 'Smoke')
  await page.keys.hover(button('Undo'))
  expect(await screen.findByText('Undo: Smoke: name')).toBeTruthy()
  const items = async (): Promise<(string | null)[]> => {
    await page.keys.click(button('What happened'))
    return (await screen.findAllByRole('menuitem')).map((one) => one.textContent)
  }
  expect(await items()).toEqual(['Smoke: name', 'Rock: seen or hidden', 'frame range', 'As it was opened'])
  await page.keys.click(screen.getByRole('menuitem', { name: 'frame range' }))
  expect([page.document().frames.last, page.document().meshes[0]!.visible]).toEqual([50, true])
  await waitFor(() => expect(screen.queryByRole('menuitem')).toBeNull())
  // and forward again
  expect(await items()).toHaveLength(4)
  await page.keys.click(screen.getByRole('menuitem', { name: 'Smoke: name' }))
  expect(page.document().populations[0]!.name).toBe('Smoke')
})

describe('meshes', () => {
  const opened = (more: object = {}) => show(shotOf({}, more), inRouter('/', <MeshesStep />))

  test('are taken from Heron Quay, made of letters, hidden, renamed and taken out with what needs them', async () => {
    const page = opened({ meshes: [], masks: [], populations: [] })
    expect(screen.getByText(/No mesh yet/)).toBeTruthy()
    await page.keys.click(button('Ready-made shapes…'))
    await page.keys.click(await screen.findByRole('menuitem', { name: 'Bell' }))
    await page.keys.click(button('Text'))
    expect(page.document().meshes.map(({ name }) => name)).toEqual(['Bell', 'Lettering'])
    expect(store.getState().session.selected.mesh).toBe(page.document().meshes[1]!.id)
    await page.keys.click(button('Hide Bell'))
    expect(page.document().meshes[0]!.visible).toBe(false)
    await page.keys.click(button('Show Bell'))
    await page.keys.click(button('Remove Bell'))
    expect(page.document().meshes.map(({ name }) => name)).toEqual(['Lettering'])
    expectSound(page.document())
    undo()
    expect(page.document().meshes).toHaveLength(2)
  })

  test('are placed by numbers, each keyed by itself', async () => {
    const page = opened()
    act(() => void store.dispatch(selected({ mesh: 'boat' })))
    const y = await screen.findByRole('textbox', { name: 'Position y' })
    await page.keys.clear(y)
    await page.keys.type(y, '1.5{Enter}')
    await page.keys.click(button('Set key for Rotation z'))
    expect(page.document().meshes[1]!.place).toMatchObject({ position: [0, 1.5, 0], rotation: [0, 0, { keys: [[1, 0, 'smooth']] }] }) // prettier-ignore
    expectSound(page.document())
  })

  test('a file of any name makes a sound document, however often it is brought', () => {
    const page = opened()
    for (const name of ['x'.repeat(400), 'x'.repeat(400), '🪨', '.', 'Ä'.repeat(90), '   '])
      act(() => addStored({ ...sample, name }))
    expect(new Set(page.document().meshes.map(({ id }) => id)).size).toBe(8)
    expectSound(page.document())
  })

  test('an edit that empties the list keeps the panel', async () => {
    const page = opened()
    act(() => void store.dispatch(set({ path: ['meshes'], value: [] })))
    expect(await screen.findByText(/No mesh yet/)).toBeTruthy()
    expect(page.document().meshes).toEqual([])
  })
})
