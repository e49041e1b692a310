import { number } from '../document/parameters.ts'
import type { Mask, Shot } from '../document/types.ts'
import type { PointColumns, SeenMask } from '../scene/seen.ts'
import type { Body } from '../scene/body.ts'
import { mask, ON_MESH, type MaskContext, type Places } from './mask.ts'

/**
 * Where rays of particles have met a mesh: 1 there, falling to 0 at the soft width, measured straight across from one place of the mesh at rest to
 * another. Nothing is sampled at triangles, so it is as fine as the rays are.
 */
export const seen = mask({
  kind: 'seen',
  label: 'Seen',
  glyph: '◉',
  help: 'What rays of particles have met of a mesh, for good: births that are laid onto it by a ray',
  pitfall: 'It stays dark: no birth lays particles onto this mesh by a ray.',
  source: '',
  onSurface: true,
  parameters: {
    mesh: ON_MESH,
    soft: number({
      label: 'Soft',
      unit: 'm',
      help: 'How far around a place that a ray has met it falls from 1 to 0: wider than rays are apart, there are no gaps',
      default: 0.1,
      range: [1e-6, 1e5],
      usual: [0.01, 2],
      step: 0.01,
    }),
  },
  write({ mesh }, places, out, context) {
    const { heap } = context.machine
    const [x, y, z] = [0, 1, 2].map(() => heap.allocate(Math.max(1, places.count) * 4)) as [number, number, number] // prettier-ignore
    writeRestPlaces(context.body(mesh), places, { x, y, z }, context)
    context.seen.write(context.written.id as string, { x, y, z }, places.count, places.frame, out)
    for (const pointer of [x, y, z]) heap.free(pointer)
  },
})

/** Where places are on a mesh at rest, in the size of the first frame. */
function writeRestPlaces(body: Body, places: Places, out: PointColumns, context: MaskContext): void {
  const { heap } = context.machine
  const count = body.mesh.positions.length / 3
  const columns = [0, 1, 2].map((axis) =>
    context.keep(`rest ${axis}`, count * 4, (pointer) => {
      const sized = body.sizedAt(context.first)
      heap.f32(pointer, count).forEach((_, v, all) => (all[v] = sized[v * 3 + axis]!))
    }),
  )
  context.sample(body, places, columns, [out.x, out.y, out.z])
}

/** The masks of a shot that ask what has been seen. */
export const seenMasks = ({ masks }: Shot): SeenMask[] =>
  masks
    .filter(({ kind }) => kind === seen.kind)
    .map(({ id, mesh, soft }: Mask) => ({ id, mesh: mesh as string, soft: soft as number }))
