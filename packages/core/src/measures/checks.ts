import { vertices } from '../births/vertices.ts'
import { volume } from '../births/volume.ts'
import { colour } from '../influences/colour.ts'
import { face } from '../influences/face.ts'
import type { InfluenceKind } from '../influences/influence.ts'
import { spin } from '../influences/spin.ts'
import { tumble } from '../influences/tumble.ts'
import { instancesTooHeavy } from '../look/instances.ts'
import { uv } from '../masks/uv.ts'
import type { MeshFacts } from '../geometry/mesh.ts'
import { valueAt } from '../document/keys.ts'
import type { Population, Shot } from '../document/types.ts'
import {
  MOST_SUBSTEPS,
  MOST_TURN,
  mostTurn,
  neededQuality,
  qualityOf,
  turnsNeeded,
  wantedSubsteps,
} from '../schema/quality.ts'
import type { Check } from './check.ts'
import { checkContact, checkCovers, checkLinked } from './contactChecks.ts'
import { checkCutBirths, checkCuts } from './cuts.ts'
import { checkBonded, checkPieces } from './pieceChecks.ts'
import { checkColumns, checkFall } from './fallCheck.ts'
import { checkGoals, checkSwarm } from './goalChecks.ts'
import type { Measures } from './measures.ts'
import { checkCompression, checkEmpty, checkLiquid, checkSplashes } from './liquid.ts'
import { checkTemperature } from './temperature.ts'
import { checkStrays } from './strays.ts'
import { mendQuality } from './words.ts'

const count = (n: number): string => Math.round(n).toLocaleString('en').replaceAll(',', ' ')

/** What can be told from the document and the facts of its meshes (by mesh id). */
export function checkShot(shot: Shot, facts: Map<string, MeshFacts>): Check[] {
  return [
    ...checkMasks(shot, facts),
    ...checkTurning(shot),
    ...checkCutBirths(shot),
    ...checkQuality(shot),
    ...shot.populations.flatMap((population, index) => [
      ...checkBirths(shot, population, facts),
      ...checkPhases(population),
      ...checkLook(population, index),
      ...checkAttributes(shot, population, facts),
      ...checkGoals(population, index, facts),
      ...checkFall(shot, index, facts),
      ...checkColumns(population, ['populations', index]),
      ...checkLinked(shot, population),
      ...checkBonded(population),
      ...checkCovers(shot, population),
      ...checkLiquid(shot, population, index),
      ...checkSplashes(shot, population),
      ...checkTemperature(population, index),
    ]),
  ]
}

/** Meshes that turn so far in a substep that what they hit would be missed. */
function* checkTurning(shot: Shot): Generator<Check> {
  const { substeps } = qualityOf(shot)
  for (const { id, name } of shot.meshes) {
    const most = mostTurn(shot, id)
    const wanted = Math.min(64, Math.ceil(most / MOST_TURN))
    if (wanted <= substeps) continue
    yield {
      id: `${id}:turns`,
      title: `${name} turns too far in a substep`,
      text: `It turns by up to ${Math.round(most / substeps)}° a substep; above ${MOST_TURN}° it strikes less than it should.`,
      mend: mendQuality(`${wanted} substeps`, shot, { substeps: wanted }),
    }
  }
}

/** Numbers that are too low for what acts: heaps run out, soft bodies sag. */
function* checkQuality(shot: Shot): Generator<Check> {
  const { level } = shot.quality
  const wanted = wantedSubsteps(shot, level === 'own' ? 'good' : level)
  if (wanted > 2 * MOST_SUBSTEPS) {
    yield {
      id: 'quality',
      title: 'More substeps are wanted than there can be',
      text: `For what acts, its size and speed ${count(wanted)} a frame would be right, and ${MOST_SUBSTEPS} are the most: make what touches larger or slower, or the frame rate higher.`,
    }
    return
  }
  if (level !== 'own') return
  const [now, good] = [qualityOf(shot), neededQuality(shot, 'good')]
  // meshes that turn too far have a check of their own
  if (now.substeps * 2 >= good.substeps || turnsNeeded(shot) >= good.substeps) return
  yield {
    id: 'quality',
    title: 'Too few substeps for what acts',
    text: `${now.substeps} a frame let what lies sink in and run out; for its size and speed ${good.substeps} are needed.`,
    mend: { label: 'Good quality', edits: [{ path: ['quality', 'level'], value: 'good' }] },
  }
}

/** Attributes that read what no mesh of their births carries. */
function* checkAttributes(
  shot: Shot,
  population: Population,
  facts: Map<string, MeshFacts>,
): Generator<Check> {
  for (const { id, name, birth } of population.attributes) {
    if (!('data' in birth)) continue
    const meshes = population.births.flatMap(({ muted, mesh }) => (muted || mesh === undefined ? [] : [mesh]))
    const carries = (mesh: string): string[] => {
      const found = facts.get(mesh)
      return found ? [...found.data, ...(found.uv ? ['uv'] : [])] : [birth.data]
    }
    const without = meshes.find((mesh) => !carries(mesh).includes(birth.data))
    if (without === undefined) continue
    const of = shot.meshes.find((mesh) => mesh.id === without)?.name ?? without
    const there = carries(without)
    yield {
      id: `${population.id}:${id}:data`,
      title: `${name} is 0 on ${of}`,
      text: `That mesh carries no "${birth.data}"; ${there.length > 0 ? `it carries ${there.join(', ')}` : 'it carries nothing but its shape'}.`,
    }
  }
}

/** Bands of U or V that the mesh does not have. */
function* checkMasks(shot: Shot, facts: Map<string, MeshFacts>): Generator<Check> {
  for (const [index, mask] of shot.masks.entries()) {
    const mesh = mask.kind === uv.kind ? facts.get(mask.mesh as string) : undefined
    if (!mesh) continue
    const title = `${mask.name} is empty`
    if (!mesh.uv) {
      yield { id: `${mask.id}:uv`, title, text: 'Its mesh has no texture coordinates.' }
      continue
    }
    const axis = mask.along === 'v' ? 1 : 0
    const [low, high] = [mesh.uv.low[axis]!, mesh.uv.high[axis]!]
    // a band that is keyed may come from outside
    if (typeof mask.low !== 'number' || typeof mask.high !== 'number') continue
    if (mask.low <= high && mask.high >= low) continue
    const edits = [low, low + (high - low) / 10].map((value, k) => ({
      path: ['masks', index, k === 0 ? 'low' : 'high'],
      value: Number(value.toPrecision(6)),
    }))
    yield {
      id: `${mask.id}:uv`,
      title,
      text: `${axis === 0 ? 'U' : 'V'} of its mesh runs from ${Number(low.toPrecision(3))} to ${Number(high.toPrecision(3))}.`,
      mend: { label: 'The first tenth of that', edits },
    }
  }
}

function* checkBirths(shot: Shot, population: Population, facts: Map<string, MeshFacts>): Generator<Check> {
  const { name } = population
  if (population.births.every((birth) => birth.muted)) {
    yield {
      id: `${population.id}:none`,
      title: `${name} is never born`,
      text: 'Add a birth in the Births step.',
    }
  }
  for (const birth of population.births) {
    const id = `${population.id}:${birth.id}`
    const { amount } = birth
    if ('burst' in amount && (amount.at < shot.frames.first || amount.at > shot.frames.last)) {
      yield {
        id: `${id}:outside`,
        title: `A burst of ${name} never happens`,
        text: `It is at frame ${amount.at}; the shot runs from ${shot.frames.first} to ${shot.frames.last}.`,
      }
    }
    const mesh = birth.mesh === undefined ? undefined : facts.get(birth.mesh)
    if (
      mesh &&
      'burst' in amount &&
      birth.kind === vertices.kind &&
      amount.burst !== 'all' &&
      amount.burst > mesh.vertices
    ) {
      yield {
        id: `${id}:vertices`,
        title: `Only ${count(mesh.vertices)} of ${count(amount.burst)} are born`,
        text: 'The mesh has no more vertices. Births on the surface have no such limit.',
      }
    }
    if (mesh && mesh.triangles === 0 && birth.kind !== vertices.kind) {
      const path = [
        'populations',
        shot.populations.indexOf(population),
        'births',
        population.births.indexOf(birth),
      ]
      yield {
        id: `${id}:points`,
        title: `${name} is born on a set of points`,
        text: 'It has no surface and no inside. Let them be born on the points.',
        mend: { label: 'On the points', edits: [{ path: [...path, 'kind'], value: vertices.kind }] },
      }
    }
    if (mesh && birth.kind === volume.kind && mesh.openEdges > 0) {
      const holes = mesh.holes === 1 ? '1 hole' : `${mesh.holes} holes`
      yield {
        id: `${id}:open`,
        title: `The mesh is open: ${holes}`,
        text: 'Inside is where the mesh winds around a point by more than half; a flat sheet has no inside.',
      }
    }
    // of particles a rate is for each of them
    if ('rate' in amount && birth.from === undefined) {
      const rate = valueAt(amount.rate, amount.from ?? shot.frames.first)
      if (rate > 0 && rate / shot.frames.rate < 1) {
        yield {
          id: `${id}:slow`,
          title: `${name}: less than one birth per frame`,
          text: `${rate} per second is one every ${Math.round(shot.frames.rate / rate)} frames at ${shot.frames.rate} frames per second.`,
        }
      }
    }
  }
}

const TURNS = [spin, face, tumble]

/** Changes that the look does not show. */
function* checkLook({ id, name, influences, look }: Population, index: number): Generator<Check> {
  const path = ['populations', index, 'look']
  const acts = ({ kind }: InfluenceKind): boolean => influences.some((one) => one.kind === kind && !one.muted)
  if (acts(colour) && look.colour.from !== 'own') {
    yield {
      id: `${id}:colour`,
      title: `The colours that ${name} get do not show`,
      text: `They are drawn by ${look.colour.from}: choose "own" in the Look step.`,
      mend: { label: 'Draw their own colours', edits: [{ path: [...path, 'colour', 'from'], value: 'own' }] },
    }
  }
  if (TURNS.some(acts) && !['discs', 'instances', 'pieces'].includes(look.draw)) {
    yield {
      id: `${id}:spin`,
      title: `How ${name} turn does not show`,
      text: `They are drawn as ${look.draw}: choose discs or instances in the Look step. Files carry the orientation all the same.`,
      mend: { label: 'Draw discs', edits: [{ path: [...path, 'draw'], value: 'discs' }] },
    }
  }
}

/** Phases that no birth and no cue leads to. */
function* checkPhases({ id, name, phases, births, cues }: Population): Generator<Check> {
  const reached = new Set(births.filter((birth) => !birth.muted).map((birth) => birth.into))
  for (let before = -1; before < reached.size;) {
    before = reached.size
    for (const cue of cues) if (reached.has(cue.from) && cue.chance > 0) reached.add(cue.to)
  }
  for (const phase of phases) {
    if (reached.size === 0 || reached.has(phase)) continue
    yield {
      id: `${id}:phase:${phase}`,
      title: `Nothing of ${name} ever gets to "${phase}"`,
      text: 'Add a cue that leads there: click the phase before it in the cue line.',
    }
  }
}

/** What the measures of a frame say. */
export function checkFrame(
  shot: Shot,
  measures: Measures,
  frame: number,
  facts: Map<string, MeshFacts> = new Map(),
): Check[] {
  const ofPopulations = measures.populations.flatMap((measured) => {
    const population = shot.populations.find((one) => one.id === measured.id)
    if (!population) return []
    if (measured.alive === 0) return [...checkEmpty(shot, population, frame)]
    const found: Check[] = []
    const astray = measured.astray / measured.alive
    if (astray > 0.01) {
      found.push({
        id: `${measured.id}:astray`,
        title: `${Math.round(astray * 100)} % of ${population.name} have gone astray`,
        text: 'They are far outside everything. Raise the drag, lower a strength, or give them a lifespan.',
      })
    }
    if (measured.speed.high >= population.particle.speedLimit * 0.999) {
      found.push({
        id: `${measured.id}:limit`,
        title: `${population.name} run at their speed limit`,
        text: `More than one in ten go at ${population.particle.speedLimit} m/s. Lower a strength, or raise the limit.`,
      })
    }
    const { look } = population
    const trianglesOf = (n: number): number => facts.get(look.instances!.set[n]!.mesh)?.triangles ?? 0
    if (
      look.draw === 'instances' &&
      look.instances &&
      instancesTooHeavy(look.instances, trianglesOf, measured.alive)
    ) {
      found.push({
        id: `${measured.id}:instances`,
        title: `${population.name} are drawn as spheres here`,
        text: 'As instances they have more triangles than the stage draws. Takes and files carry them; lower the share in Motion, or give lighter meshes, to see them.',
      })
    }
    return [
      ...found,
      ...checkSwarm(shot, population, measured, frame, facts),
      ...checkContact(shot, population, measured, frame),
      ...checkPieces(shot, population, measured, frame),
      ...checkCompression(shot, population, measured.liquid),
      ...checkStrays(population, ['populations', shot.populations.indexOf(population)], measured.strays),
    ]
  })
  return [...checkCuts(shot, measures.cuts), ...ofPopulations]
}
