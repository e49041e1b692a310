/** The list of stages, as it is documented, and as it is timed. */
import { readFileSync } from 'node:fs'
import { createMachine } from '@tangle/kernels'
import { createSimulation, STAGES } from '../src/index.ts'
import { ASSET, acting, box, burst, shotOf } from './help.ts'

/** The table of stages in docs/solver.md. */
export const stageTable = (): string =>
  [
    '| stage | what it does | cheaper with |',
    '| --- | --- | --- |',
    ...STAGES.map(({ name, does, cheaper }) => `| ${name} | ${does} | ${cheaper} |`),
  ].join('\n')
const cells = (text: string): string[] =>
  text
    .split('\n')
    .filter((line) => line.startsWith('|') && !line.startsWith('| -'))
    .map((line) => line.replace(/\s+/g, ' ').trim())

test('docs/solver.md has the stages as they are', () => {
  const page = readFileSync('docs/solver.md', 'utf8')
  const table = page.slice(page.indexOf('<!-- stages -->'), page.indexOf('<!-- /stages -->'))
  expect(cells(table)).toEqual(cells(stageTable()))
})

test('each stage has its milliseconds where a clock runs, and they add up to the frame', () => {
  const shot = shotOf({
    births: [burst({ amount: { rate: 20_000 } })],
    influences: [acting('turbulence'), acting('selfCollision')],
  })
  let ticks = 0
  // a clock that goes on by one whenever it is asked
  const timed = createSimulation(createMachine(), shot, new Map([[ASSET, box()]]), { clock: () => ++ticks })
  timed.advance()
  const spent = timed.milliseconds()
  expect(Object.keys(spent).every((name) => STAGES.some((stage) => stage.name === name))).toBe(true)
  for (const name of ['births', 'forces', 'motion']) expect(spent[name]).toBeGreaterThan(0)
  const sum = Object.values(spent).reduce((a, b) => a + b, 0)
  expect(sum).toBeLessThanOrEqual(ticks)
  expect(timed.measures().milliseconds).toEqual(spent)
  const untimed = createSimulation(createMachine(), shot, new Map([[ASSET, box()]]))
  untimed.advance()
  expect(untimed.milliseconds()).toEqual({})
})

test('names are unique, and each says what it does and what makes it cheaper', () => {
  expect(new Set(STAGES.map(({ name }) => name)).size).toBe(STAGES.length)
  for (const { does, cheaper } of STAGES) expect([does.length > 10, cheaper.length > 5]).toEqual([true, true])
})
