/** @jest-environment jsdom */
import { act, screen, within } from '@testing-library/react'
import { meshFacts } from '@tangle/core'
import { RECIPES } from '@tangle/recipes'
import { sphere } from '../../../packages/core/test/help.ts'
import { engine } from '../src/engine/engine.ts'
import { RecipeDialog } from '../src/recipes/RecipeDialog.tsx'
import { TryFirst } from '../src/recipes/TryFirst.tsx'
import { store } from '../src/store/index.ts'
import { recipeOpened } from '../src/store/session.ts'
import { button, expectSound, field, fill, show, shotOf, undo, type Page } from './page.tsx'

const { loadMesh } = engine
beforeEach(() => {
  const mesh = sphere(12)
  engine.loadMesh = () => Promise.resolve({ mesh, facts: meshFacts(mesh) })
})
afterEach(() => {
  engine.loadMesh = loadMesh
})

function opened(recipe: string, more: object = {}) {
  const made = { count: 0 }
  const shot = shotOf({}, { populations: [], ...more })
  const page = show(
    shot,
    <>
      <TryFirst />
      <RecipeDialog onMade={() => made.count++} />
    </>,
  )
  act(() => void store.dispatch(recipeOpened(recipe)))
  return { ...page, made, shot }
}

async function take({ keys }: Page, slot: string, option: string): Promise<void> {
  await keys.click(screen.getByRole('combobox', { name: slot }))
  await keys.click(await screen.findByRole('option', { name: option }))
}

test('all recipes are listed with what they do; one is chosen and left again', async () => {
  const page = opened('')
  for (const { label, help } of RECIPES) {
    const card = button(new RegExp(`^${label}`))
    expect(within(card).getByText(help)).toBeTruthy()
  }
  await page.keys.click(button(/^Wake/))
  expect(screen.getByRole('heading', { name: 'Wake' })).toBeTruthy()
  await page.keys.click(button('Other recipes'))
  expect(screen.getByRole('heading', { name: 'Start from a recipe' })).toBeTruthy()
})

test('a recipe is made for meshes of the shot in one step of undo, and its values are at hand', async () => {
  const page = opened('morph')
  // each slot begins with a mesh of its own
  expect(screen.getByRole('combobox', { name: 'What it is' }).textContent).toBe('Rock')
  expect(screen.getByRole('combobox', { name: 'What it becomes' }).textContent).toBe('Boat')
  await page.keys.click(button('Make it'))
  await screen.findByRole('region', { name: 'Try first' })
  expect(page.made.count).toBe(1)
  const [grains] = page.document().populations
  expect([grains!.births[0]!.mesh, grains!.goals[0]!.mesh]).toEqual(['rock', 'boat'])
  expect(store.getState().session).toMatchObject({ recipe: null, selected: { population: grains!.id } })
  expectSound(page.document())
  await fill(page, 'Grains', '500')
  expect(page.document().populations[0]!.births[0]!.amount).toEqual({ burst: 500, at: 1 })
  // a slider never shows another value than its field
  await fill(page, 'How fast they fly', '21')
  expect(screen.getByRole('slider', { name: 'How fast they fly slider' }).getAttribute('value')).toBe('21')
  await page.keys.click(button('Take “Try first” away'))
  expect(screen.queryByRole('region', { name: 'Try first' })).toBeNull()
  for (let n = 0; n < 4; n++) undo()
  expect(page.document()).toEqual(page.shot)
})

test('the same mesh twice is refused with the slot that is to change; lettering is made along', async () => {
  const page = opened('morph')
  await take(page, 'What it becomes', 'Rock')
  await page.keys.click(button('Make it'))
  expect((await screen.findByRole('alert')).textContent).toMatch(/Rock can’t be both.*What it becomes/)
  expect(page.document()).toBe(page.shot)
  await take(page, 'What it becomes', 'Lettering')
  const words = field('Lettering for what it becomes')
  await page.keys.clear(words)
  await page.keys.type(words, 'FOG')
  await page.keys.click(button('Make it'))
  await screen.findByRole('region', { name: 'Try first' })
  expect(page.document().meshes.at(-1)).toMatchObject({
    name: 'Lettering',
    source: { text: { text: 'FOG' } },
  })
  expectSound(page.document())
})

test('a mesh that can’t be had is told, and nothing is changed', async () => {
  const page = opened('dust')
  engine.loadMesh = () =>
    Promise.reject(new Error('A mesh of this shot is not stored any more: add its file again'))
  await page.keys.click(button('Make it'))
  expect((await screen.findByRole('alert')).textContent).toMatch(/not stored any more/)
  expect(page.document()).toBe(page.shot)
  expect(page.made.count).toBe(0)
})
