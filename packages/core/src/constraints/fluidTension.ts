/** Surface tension of liquids. The kernels are assembly/fluidTension.ts, which say from where. */
import { layouts, type Machine } from '@tangle/kernels'
import { curveAt } from '../document/keys.ts'
import type { Key } from '../document/parameters.ts'

const { F32 } = layouts

/** Widths that the shortest wave of a surface, two widths long, may go in a substep: what is pulled harder is pulled that hard. */
const CAPILLARY = 0.6
/** N/m, the most for particles of so many kg in a substep of h seconds. */
export const tensionFor = (mass: number, h: number): number => (mass * (CAPILLARY / h) ** 2) / Math.PI

/** How much of a wall counts as liquid by the contact angle in degrees, as small drops on a floor came out (core/test/tension.test.ts). */
const WETTING: Key[] = [[0, 1], [40, 0.96], [60, 0.88], [90, 0.78], [120, 0.6], [150, 0.45], [180, 0.1]] // prettier-ignore
export const wettingOf = (angle: number): number => curveAt(WETTING, angle)

/** The tables of the kernels that a liquid is in, half way through the substep, and its own numbers (f32 per entry). */
export interface TensionTables {
  count: number
  places: number
  bodies: number
  moved: number
  counts: number
  slots: number
  gradients: number
  slopes: number
  wallOf: number
  /** 0: there are none. */
  walls: number
  /** N/m; below 0 of what is solid. */
  tensions: number
  /** How much of a wall counts as liquid. */
  wettings: number
}

/** What surfaces pull in a substep of h seconds, as ways. */
export function pullSurfaces(
  tables: TensionTables & { inverse: number },
  block: (bytes: number) => number,
  h: number,
  machine: Machine,
): void {
  const { count, places, counts, slots, tensions, gradients, bodies, inverse, moved, walls } = tables
  if (!machine.heap.f32(tensions, count).some((one) => one > 0)) return
  const { colours, curvatures } = curvaturesOf(tables, block, machine)
  const [presses, pulls] = [block((count + 1) * F32), block((count + 1) * 4 * F32)] as const
  machine.run('pressTension', count, {
    places,
    inverse,
    most: tensionFor(1, h),
    counts,
    slots,
    tensions,
    gradients,
    curvatures,
    presses,
  })
  machine.run('pullSurface', count, { places, inverse, colours, presses, h, pulls })
  const [shiftX, shiftY, shiftZ] = walls === 0 ? unbalanced(machine.heap.f32(pulls, count * 4)) : [0, 0, 0]
  machine.run('followPull', count, { bodies, pulls, shiftX, shiftY, shiftZ, moved })
}

/** Rows of the surface as the kernels say: which way is out, and how curved it is. */
export function curvaturesOf(
  { count, places, counts, slots, tensions, wettings, gradients, slopes, bodies, moved, wallOf, walls }: TensionTables, // prettier-ignore
  block: (bytes: number) => number,
  machine: Machine,
): { colours: number; curvatures: number } {
  const lists = { places, counts, slots, tensions }
  const rows = (): number => {
    const pointer = block((count + 1) * 4 * F32)
    machine.heap.u32(pointer, (count + 1) * 4).fill(0)
    return pointer
  }
  const [colours, normals, curvatures] = [rows(), rows(), rows()] as const
  machine.run('colourFluid', count, {
    ...lists,
    bodies,
    moved,
    wallOf,
    walls,
    slopes,
    wettings,
    out: colours,
  })
  machine.run('normalsOfFluid', count, { ...lists, gradients, colours, normals })
  machine.run('curveFluid', count, { ...lists, gradients, colours, normals, curvatures })
  return { colours, curvatures }
}

/** What rows of ways and mass lack to leave the middle of mass where it is: a surface that closes pulls nobody along. */
function unbalanced(pulls: Float32Array): [number, number, number] {
  const sum = [0, 0, 0, 0] as [number, number, number, number]
  for (let k = 0; k < pulls.length; k += 4) {
    const mass = pulls[k + 3]!
    for (let axis = 0; axis < 3; axis++) sum[axis]! += mass * pulls[k + axis]!
    sum[3] += mass
  }
  const [x, y, z, mass] = sum
  return mass > 0 ? [-x / mass, -y / mass, -z / mass] : [0, 0, 0]
}
