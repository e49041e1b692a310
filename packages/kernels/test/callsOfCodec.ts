/** The codec of stored frames. */
import * as layouts from '../assembly/layouts.ts'
import { block, COUNT, type Run } from './call.ts'

export const CALLS_OF_CODEC: Record<string, (run: Run) => void> = {
  codec: (run) => {
    for (const [step, dropped] of [
      [0.25, 0],
      [0, 0],
      [0, 9],
    ] as const) {
      for (const rule of Object.values(layouts.codecRule))
        run('expectWholes', COUNT, { count: COUNT, width: 3, index: block(8), rule, last: block(0), v0: block(1), v1: block(2), seconds: 1 / 24, step, dropped, expected: block(20) }) // prettier-ignore
      run('wholesOf', COUNT, { length: COUNT, values: block(3), step, dropped, wholes: block(21) })
      run('foldDifferences', COUNT, { count: COUNT / 4, width: 3, index: block(8), wholes: block(21), expected: block(20) }) // prettier-ignore
      run('unfoldDifferences', COUNT, { count: COUNT / 4, width: 3, index: 0, wholes: block(20), expected: block(22) }) // prettier-ignore
      run('numbersOf', COUNT, { length: COUNT, wholes: block(21), step, dropped, values: block(23) })
    }
    run('indexOfIds', COUNT, {
      count: COUNT,
      ids: block(8),
      countBefore: COUNT,
      before: block(8),
      index: block(24),
    })
  },
}
