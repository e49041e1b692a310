import type { Substep } from './kind.ts'

/** Calls `use` for each body with pointers to where anchors are at the start and the end of the substep. */
export function withAnchors(
  { machine, columns, bodies, from, to }: Substep,
  use: (body: number, start: number, end: number) => void,
): void {
  const { heap } = machine
  const [start, end] = [heap.allocate(columns.count * 12), heap.allocate(columns.count * 12)]
  for (const body of bodies.values()) {
    for (const [frame, out] of [
      [from, start],
      [to, end],
    ] as const) {
      const { anchor, anchorAt } = columns.at
      machine.run(
        'anchorPoints',
        columns.count,
        body.number,
        anchor,
        anchorAt,
        body.worldAt(frame),
        body.triangles(),
        body.mapAt(frame),
        out,
      )
    }
    use(body.number, start, end)
  }
  heap.free(start)
  heap.free(end)
}
