import { basin, filling, G, mean, startTank } from '../packages/core/test/liquidHelp.ts'
import { acting } from '../packages/core/test/help.ts'
const arg = (name: string, or: number) => Number(process.argv.find((a) => a.startsWith(name + '='))?.split('=')[1] ?? or)
const a = arg('a', 0.5), width = a / 10, height = 2
  const population = (id: string, density: number, births: object[], influences: object[]) => ({
    id, phases: ['Loose'], particle: { radius: width / 2 * (id === 'foam' ? arg('fr', 1) : 1), density }, births,
    influences: [acting('gravity'), acting('collide', { mesh: 'tank', side: 'inside' }), ...influences],
  })
  const s = startTank({
    meshes: [basin(4 * a, 4 * a, 4 * width), basin(a, height * a, 4 * width)], width, rate: Math.round(24 * Math.sqrt(1 / a)),
    populations: [
      population('water', 1000, [filling('body')], [acting('liquid', { splashes: arg('sp', 60), splashSpeed: Math.sqrt(G * a) })]),
      population('foam', arg('fd', 100), [{ id: 's', kind: 'particles', from: 'water', into: 'Loose', amount: { count: 2, event: 'splash' }, inherit: 1 }], [acting('float')]),
    ] as object[],
  } as never)
for (let f = 0; f < arg('frames', 140); f++) {
  s.advance()
  if (f % 10 === 0) {
    const [w, o] = s.populations().map(({ columns, count }) => count ? [count, mean(Array.from(columns.position!).filter((_, k) => k % 3 === 1)), Math.max(...Array.from(columns.position!).filter((_, k) => k % 3 === 1)), Math.max(...columns.compression ?? [0])].map((v) => v.toFixed(3)).join('/') : '-')
    console.log(f, w, o, s.events()[0]!.counts.splash)
  }
}
