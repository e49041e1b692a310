/** A chart is never told of a change while it draws another, and shows the last of them in the end. */
import { followChart } from '../src/drawer/liveChart.ts'

interface Step {
  done(): void
  fail(): void
}
/** A chart that draws as long as it is let, and notes what it was told. */
function slowChart() {
  const told: string[] = []
  const under: Step[] = []
  let most = 0
  const draw = (what: string): Promise<void> => {
    told.push(what)
    return new Promise<void>((resolve, reject) => {
      const end = (how: () => void) => () => {
        under.splice(0, 1)
        how()
      }
      under.push({ done: end(resolve), fail: end(() => reject(new Error('length of undefined'))) })
      most = Math.max(most, under.length)
    })
  }
  const create = (first: string) => ({
    render: () => draw(`render ${first}`),
    updateOptions: (next: string) => draw(next),
    destroy: () => void told.push('destroy'),
  })
  const settle = async (how: keyof Step = 'done'): Promise<void> => {
    under[0]?.[how]()
    for (let n = 0; n < 6; n++) await Promise.resolve()
  }
  return { told, settle, create, most: () => most }
}
const follow = (chart: ReturnType<typeof slowChart>) => followChart(chart.create, (one: string) => one, 'a')

test('changes that come while it draws are drawn as one, the last', async () => {
  const chart = slowChart()
  const { show } = follow(chart)
  for (const next of ['b', 'c', 'd']) show(next)
  expect(chart.told).toEqual(['render a'])
  await chart.settle()
  expect(chart.told).toEqual(['render a', 'd'])
  show('e')
  await chart.settle()
  await chart.settle()
  expect(chart.told).toEqual(['render a', 'd', 'e'])
  expect(chart.most()).toBe(1)
})

test('what is the same is not drawn again', async () => {
  const chart = slowChart()
  const { show } = follow(chart)
  await chart.settle()
  show('a')
  await chart.settle()
  expect(chart.told).toEqual(['render a'])
})

test('one that falls over goes on with the next change, and is taken away once it has ended', async () => {
  const chart = slowChart()
  const { show, dispose } = follow(chart)
  await chart.settle('fail')
  show('b')
  await chart.settle()
  await chart.settle('fail')
  show('c')
  await chart.settle()
  dispose()
  show('d')
  expect(chart.told).not.toContain('destroy')
  await chart.settle()
  await chart.settle()
  expect(chart.told).toEqual(['render a', 'b', 'c', 'destroy'])
})
