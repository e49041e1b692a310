/** Checks of pieces and bonds: what goes wrong with them, with the number and the mend. */
import { derivedFrom } from '../document/derived.ts'
import type { Influence, Population, Shot } from '../document/types.ts'
import { bonds as bondsKind } from '../influences/bonds.ts'
import { dock } from '../influences/dock.ts'
import { rigid } from '../influences/rigid.ts'
import type { Check } from './check.ts'
import type { PopulationMeasures } from './measures.ts'
import { mend, percent, round } from './words.ts'

const actingOf = ({ influences }: Population, { kind }: { kind: string }): Influence | undefined =>
  influences.find((one) => one.kind === kind && !one.muted)

/** So many rigid bodies are still looked at as they are computed. */
const MANY = 2000

/** What can be told from the document. */
export function* checkBonded(population: Population): Generator<Check> {
  if (!actingOf(population, bondsKind) || actingOf(population, rigid)) return
  yield {
    id: `${population.id}:unbound`,
    title: `Bonds of ${population.name} hold nothing`,
    text: 'Only pieces that are rigid bodies have bonds: add Rigid body in the Motion step.',
  }
}

/** What the measures of a frame say. */
export function* checkPieces(shot: Shot, population: Population, measured: PopulationMeasures, frame: number): Generator<Check> {
  const at = ['populations', shot.populations.indexOf(population)]
  if (measured.pieces) {
    yield* checkStart(shot, population, measured)
    if (frame >= shot.frames.last) yield* checkEnd(population, at, measured)
  }
  if (measured.bonds) yield* checkBreaking(shot, population, at, measured.bonds, frame)
} // prettier-ignore

function* checkStart({ meshes }: Shot, population: Population, { pieces, alive }: PopulationMeasures): Generator<Check> {
  const { id, name, births } = population
  const { inside, crumbs } = pieces!
  if (inside && inside.pieces > 0) {
    // a shell that is broken: its gap is what keeps it off
    const broken = meshes.find((one) => one.id === births[0]?.mesh)
    const shell = meshes.find((one) => one.id === (broken && derivedFrom(broken.source)?.mesh) && 'shell' in one.source) // prettier-ignore
    const deep = `${round(inside.depth * 1000)} mm`
    const start = {
      id: `${id}:overlap`,
      title: `${percent(inside.pieces / alive)} of ${name} start inside what they hit`,
      text: `Number ${inside.worst} is in it by ${deep}: they will be thrown out.`,
    }
    if (shell && 'shell' in shell.source) {
      const gap = round((shell.source.shell.gap + inside.depth) * 1.05)
      const path = ['meshes', meshes.indexOf(shell), 'source', 'shell', 'gap']
      yield { ...start, mend: mend(`A gap of ${gap} m`, path, gap) }
    } else yield { ...start, text: `${start.text} Begin ${deep} farther from it.` }
  }
  if (alive > MANY) {
    const broken = meshes.findIndex((one) => one.id === births[0]?.mesh && 'fracture' in one.source)
    yield {
      id: `${id}:many`,
      title: `${alive} of ${name} are rigid bodies`,
      text: 'Where thousands touch, a frame takes seconds: break the mesh into fewer pieces, or let go of some at a time.',
      ...(broken >= 0 ? { mend: mend('Break into 1000', ['meshes', broken, 'source', 'fracture', 'pieces'], 1000) } : {}),
    }
  }
  if (crumbs > 0) {
    yield {
      id: `${id}:crumbs`,
      title: `${crumbs} of ${name} are crumbs`,
      text: 'They are less than a twentieth as wide as most: too small to be seen, and as dear as the others. Break the mesh into fewer pieces, or with even seeds.',
    }
  }
} // prettier-ignore

function* checkEnd(population: Population, at: (string | number)[], { pieces, alive }: PopulationMeasures): Generator<Check> {
  const { id, name, influences } = population
  const { stuck, homing, docked, farthest } = pieces!
  if (stuck > 0.05 * alive) {
    yield {
      id: `${id}:stuck`,
      title: `${percent(stuck / alive)} of ${name} are stuck where they were`,
      text: 'They have been free for more than a second and are still in their places: less friction, a push, or weaker bonds let them go.',
    }
  }
  const leading = actingOf(population, dock)
  if (!leading || docked === homing) return
  const path = [...at, 'influences', influences.indexOf(leading)]
  const late = homing - docked
  const away = farthest < 1 ? `${round(farthest * 1000)} mm` : `${round(farthest)} m`
  const { within, speed } = leading as unknown as { within: number; speed: unknown }
  // they are about there, and do not come in
  const circles = farthest < 10 * within
  const mended = circles
    ? mend(`Dock within ${round(farthest * 1.5)} m`, [...path, 'within'], round(farthest * 1.5))
    : typeof speed === 'number' ? mend(`Fly at ${round(speed * 2)} m/s`, [...path, 'speed'], round(speed * 2)) : undefined
  yield {
    id: `${id}:undocked`,
    title: `${percent(late / homing)} of ${name} are not home at the last frame`,
    text: circles
      ? `They are within ${away} of it and do not dock: let them dock from farther off, or turn faster.`
      : `The farthest is ${away} from its place: more frames, or more speed.`,
    ...(mended ? { mend: mended } : {}),
  }
} // prettier-ignore

function* checkBreaking({ frames }: Shot, population: Population, at: (string | number)[], { made, broken, most }: NonNullable<PopulationMeasures['bonds']>, frame: number): Generator<Check> {
  const holding = actingOf(population, bondsKind)
  if (!holding || typeof holding.bears !== 'number' || made === 0) return
  const path = [...at, 'influences', population.influences.indexOf(holding), 'bears']
  const { id, name } = population
  if (broken > 0.3 * made && frame - frames.first <= frames.rate / 4) {
    const more = round(holding.bears * Math.max(8, 1.5 * most))
    yield {
      id: `${id}:brittle`,
      title: `${name} falls apart at once`,
      text: `${percent(broken / made)} of its bonds broke in the first ${frame - frames.first} frames: the worst bore ${round(most)} times its strength.`,
      mend: mend(`Bear ${more} kPa`, path, more),
    }
  }
  if (frame >= frames.last && broken === 0 && most > 0) {
    const less = round(holding.bears * most * 0.7)
    yield {
      id: `${id}:tough`,
      title: `${name} never breaks`,
      text: `Its worst bond bears ${percent(most)} of its strength.`,
      mend: mend(`Bear ${less} kPa`, path, less),
    }
  }
} // prettier-ignore
