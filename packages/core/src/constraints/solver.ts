/**
 * Stage 6, constraints: particles against meshes and planes, against one another, and linked. The kernels are
 * assembly/meet.ts (each particle on its own, exactly), assembly/bundle.ts and assembly/links.ts (all that hold
 * one another, in rounds).
 */
import { MOST_THREADS } from '@tangle/kernels'
import { INFLUENCES } from '../influences/index.ts'
import type { Population } from '../document/types.ts'
import { askInfluences, type Moment } from '../simulation/influencePass.ts'
import { collidersOf, type Colliders } from './colliders.ts'
import { floats, MOST_COLLIDERS } from '../state/columns.ts'
import { dropBroken, LINK, linkNewborn, makeLinks, noLinks, placeEnds } from './linkTopology.ts'
import { findPairs, know, PAIR, warm, type Pairs } from './particleContacts.ts'
import type { Block, BundleRun, Member, Ready, World } from './solverBodies.ts'

/** Planes are looked for within this share of the radius beyond contact. */
const PLANES_WITHIN = 0.6
/** Share of an overlap that is mended in a round. */
const PART = 0.3
const UNMOVED = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)
/** As many particles tell what a substep gives in velocity. */
const SAMPLE = 256

/**
 * Links move particles by h²·a where h²·a/2 is due: they are solved at the end of the substep. So half of the velocity
 * that they gave last time, `pull`, is taken back on the way (leapfrog), and periods, springs and what hangs at rest
 * are right to second order.
 */
export function loosen({ columns }: BundleRun, { machine, h }: Moment): void {
  const { position, velocity, pull } = columns.at
  if (!pull) return
  machine.run('addPull', columns.count, velocity, pull, -1)
  machine.run('addPull', columns.count, position, pull, -h)
  machine.run('fill', columns.count * 3, pull, 0)
}

export function holdTogether(world: World, moment: Moment): void {
  const { runs } = world
  const colliders = runs.map((run) => collidersOf(run, moment))
  runs.forEach((run, n) => meet(run, colliders[n]!, moment))
  const members = runs.flatMap((run, n) =>
    takesPart(run.source, runs) && run.columns.count > 0 ? [{ run, colliders: colliders[n]! }] : [],
  )
  if (members.length > 0) solveTogether(members, world, moment)
  for (const one of colliders) one?.free()
}

function meet(
  { columns }: BundleRun,
  colliders: Colliders | null,
  { machine, h, from, first, shot }: Moment,
): void {
  const { count, at } = columns
  if (!colliders) {
    if (at.touched) machine.run('fill', count * 3, at.touched, 0)
    return
  }
  const turn = Math.round((from - first) * shot.quality.substeps)
  const seen = machine.heap.allocate(MOST_THREADS * MOST_COLLIDERS * 24)
  const { position, previous, velocity, before, age, radius, id, travelled, wrong, touched } = at
  const motion = [position, previous, velocity, before, age, radius, id, travelled, wrong, touched, seen]
  machine.run('meet', count, colliders.at, colliders.count, ...motion, h, turn)
  machine.heap.free(seen)
}

const hasHook = ({ influences }: Population, hook: 'touch' | 'link' | 'sleep'): boolean =>
  influences.some((one) => !one.muted && INFLUENCES.find((k) => k.kind === one.kind)?.[hook])
/** Populations that hold one another: by a rule of their own, or because one of another population names them. */
const takesPart = (source: Population, runs: BundleRun[]): boolean =>
  hasHook(source, 'touch') ||
  hasHook(source, 'link') ||
  hasHook(source, 'sleep') ||
  runs.some(
    (run) => hasHook(run.source, 'touch') && run.source.influences.some((one) => one.with === source.id),
  )

function solveTogether(members: Member[], world: World, moment: Moment): void {
  const { iterations } = world
  const { machine, h } = moment
  const { heap } = machine
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  let total = 0
  const ready = members.map((member) => {
    const first = total
    total += member.run.columns.count
    return makeReady(member, first, moment, block)
  })
  const bundle = block(total * 128)
  for (const one of ready) gather(one, bundle, moment, block)
  for (const one of ready) if (one.colliders) nearPlanes(one, moment)
  const pairs = findPairs(ready, total, bundle, moment, block)
  const wakes = ready.flatMap(({ sleep }) => (sleep ? [2 * sleep.rule.speed] : []))
  if (wakes.length > 0) machine.call('wakePairs', pairs.at, pairs.count, bundle, Math.min(...wakes))

  const marks = block(total * 4)
  machine.call('markPairs', pairs.at, pairs.count, bundle, total, marks)
  for (const { run, first, planes, kept } of ready) {
    const { count, at } = run.columns
    machine.run('lean', count, bundle, first, marks, planes, at.before, h)
    machine.run('keepPlaces', count, bundle, first, kept)
  }
  for (const { links } of ready) for (const { at, count } of links) machine.call('startLinks', at, 0, count)
  warm(pairs, world, bundle, machine, block)
  const pressPlanes = (): void => {
    for (const { run, colliders, first, planes, grips, loads } of ready)
      if (colliders) machine.run('solvePlanes', run.columns.count, bundle, first, planes, grips, loads, h)
  }
  // what presses on the ground is borne by it before pairs look at one another
  pressPlanes()
  for (let round = 0; round < iterations; round++) {
    const backward = round % 2
    for (const { links, first } of ready) {
      for (const { at, count, rule, asked } of links) {
        const { compliance, soft, damping } = rule
        machine.call(
          'solveLinks',
          at,
          0,
          count,
          bundle,
          asked.substep.amount,
          first,
          compliance,
          soft,
          damping,
          h,
          backward,
        )
      }
    }
    machine.call('solvePairs', pairs.at, pairs.count, bundle, pairs.rules, h, backward)
    pressPlanes()
  }
  for (const { run, first, kept } of ready)
    machine.run('giveVelocity', run.columns.count, bundle, first, kept, h)
  // what approaches slower than two substeps of gravity, or whatever acts, gave it lies there and does not bounce
  const rest = 2 * usualGain(ready)
  for (let round = 0; round < 2; round++)
    machine.call('settlePairs', pairs.at, pairs.count, bundle, pairs.rules, rest, round)
  for (const { run, colliders, first, planes, grips, loads } of ready)
    if (colliders) machine.run('settlePlanes', run.columns.count, bundle, first, planes, grips, loads)
  for (let round = 0; round < iterations; round++) {
    machine.call('partPairs', pairs.at, pairs.count, bundle, PART, round % 2)
    for (const { run, colliders, first, planes } of ready)
      if (colliders) machine.run('partPlanes', run.columns.count, bundle, first, planes, PART)
  }

  know(pairs, world, machine, block)
  const touches = block(total * 4)
  machine.call('countTouches', pairs.at, pairs.count, bundle, total, touches)
  for (const one of ready) finish(one, bundle, touches, marks, moment)
  linkTouching(ready, pairs, moment)
  for (const { touches: asked, links, sleep } of ready)
    for (const one of [...asked, ...links.map((link) => link.asked), ...(sleep ? [sleep.asked] : [])])
      one.free()
  for (const pointer of owned) heap.free(pointer)
}

/** Median of the speed that influences gave particles in this substep, m/s, of some that stand for all. */
function usualGain(ready: Ready[]): number {
  const gains: number[] = []
  for (const { run } of ready) {
    if (!run.columns.at.before) continue
    const [velocity, before] = [floats(run.columns, 'velocity'), floats(run.columns, 'before')]
    const stride = 3 * Math.max(1, Math.ceil(run.columns.count / SAMPLE))
    for (let k = 0; k < velocity.length; k += stride) {
      const gained = [0, 1, 2].map((axis) => velocity[k + axis]! - before[k + axis]!)
      gains.push(Math.sqrt(gained[0]! ** 2 + gained[1]! ** 2 + gained[2]! ** 2))
    }
  }
  return gains.sort((a, b) => a - b)[gains.length >> 1] ?? 0
}

function makeReady({ run, colliders }: Member, first: number, moment: Moment, block: Block): Ready {
  const { machine, bodies } = moment
  const { heap } = machine
  const { count, at } = run.columns
  const free = block(count * 12)
  heap.f32(free, count * 3).set(heap.f32(at.position, count * 3))
  const grips = block(Math.max(1, colliders?.count ?? 0) * 24)
  const values = (colliders?.list ?? []).flatMap(({ friction, sliding, sticky }) => [
    friction,
    sliding,
    sticky,
  ])
  heap.f64(grips, values.length).set(values)
  const loads = block(count * 128)
  heap.f64(loads, count * 16).fill(0)
  const links = askInfluences(run, moment, 'link').map((asked) => {
    const rule = asked.kind.link!(asked.values)
    const state = run.links.get(asked.influence.id) ?? noLinks()
    run.links.set(asked.influence.id, state)
    linkNewborn(machine, run, rule, state, asked.substep.amount, bodies, asked.substep.seed)
    placeEnds(state, run, first)
    const records = block(state.records.byteLength)
    heap.f64(records, state.records.length).set(state.records)
    return { asked, rule, state, at: records, count: state.records.length / LINK }
  })
  const [asleep] = askInfluences(run, moment, 'sleep')
  return {
    run,
    colliders,
    first,
    free,
    kept: block(count * 24),
    grips,
    loads,
    planes: colliders ? block(count * 256) : 0,
    touches: askInfluences(run, moment, 'touch'),
    sleep: asleep ? { asked: asleep, rule: asleep.kind.sleep!(asleep.values) } : null,
    links,
  }
}

function gather({ run, first, sleep }: Ready, bundle: number, moment: Moment, block: Block): void {
  const { machine } = moment
  const { count, at } = run.columns
  const held = askInfluences(run, moment, 'pins')
  let pinned = 0
  if (held.length > 0) {
    pinned = block(count * 4)
    const most = machine.heap.f32(pinned, count).fill(0)
    for (const { substep, free } of held) {
      const amounts = machine.heap.f32(substep.amount, count)
      for (let i = 0; i < count; i++) most[i] = Math.max(most[i]!, amounts[i]!)
      free()
    }
  }
  const { position, previous, velocity, inverseMass, radius, still } = at
  const wait = sleep?.rule.wait ?? Infinity
  const columns = [position, previous, velocity, inverseMass, radius, pinned, sleep ? still : 0, wait]
  machine.run('gatherBundle', count, ...columns, bundle, first)
}

function nearPlanes({ run, colliders, planes }: Ready, { machine, h }: Moment): void {
  const { count, at } = run.columns
  const { position, radius, wrong } = at
  machine.run(
    'planesNear',
    count,
    colliders!.at,
    colliders!.count,
    position,
    radius,
    wrong,
    PLANES_WITHIN,
    h,
    planes,
  )
}

function finish(one: Ready, bundle: number, touches: number, marks: number, moment: Moment): void {
  const { run, colliders, first, free, links, sleep, planes } = one
  const { machine, h } = moment
  const { heap } = machine
  const { count, at } = run.columns
  const { position, velocity, travelled, pull, still, touched, phaseAge, radius, wrong } = at
  if (sleep) {
    const { speed, wait } = sleep.rule
    const lying = [touches, touched, planes, sleep.asked.substep.amount, still, phaseAge]
    machine.run('tire', count, bundle, first, ...lying, speed, wait, h)
  }
  machine.run('scatterBundle', count, bundle, first, position, velocity, free, travelled)
  if (colliders)
    machine.run('guard', count, colliders.at, colliders.count, position, free, velocity, radius, wrong, h)
  for (const link of links) {
    if (pull) machine.call('pullOfLinks', link.at, 0, link.count, bundle, first, h, pull)
    cut(link, bundle, moment)
    const { breaks, yields, creep } = link.rule
    machine.call('strainLinks', link.at, 0, link.count, bundle, breaks, yields, Math.min(1, creep * 24 * h))
    const { compliance, soft } = link.rule
    link.state.elastic = machine.call('energyOfLinks', link.at, 0, link.count, bundle, compliance, soft, h)
    link.state.records = heap.f64(link.at, link.count * LINK).slice()
    dropBroken(link.state)
  }
  if (!pull) return
  machine.run('clearMarked', count, marks, first, pull)
  machine.run('addPull', count, velocity, pull, 1)
}

function cut(
  { rule, at, count }: Ready['links'][number],
  bundle: number,
  { machine, bodies, from, to }: Moment,
): void {
  const body = rule.cut === undefined ? undefined : bodies.get(rule.cut)
  if (!body || count === 0) return
  const { heap } = machine
  const maps = heap.allocate(192)
  const { tree, into } = body.treeAt(to)
  const now = into ?? UNMOVED
  const middle = into ? body.treeAt((from + to) / 2).into! : now
  heap.f64(maps, 24).set([...now, ...middle])
  const { bounds, links, vertices, stack } = tree
  machine.run('cutLinks', count, at, 0, bundle, bounds, links, vertices, stack, maps, maps + 96)
  heap.free(maps)
}

/** New links between those that touch, where a rule wants that. */
function linkTouching(ready: Ready[], pairs: Pairs, { machine }: Moment): void {
  const { heap } = machine
  for (const { run, first, links } of ready) {
    const { count } = run.columns
    for (const { asked, rule, state } of links) {
      if (rule.made !== 'contact' || pairs.count === 0) continue
      const amounts = heap.f32(asked.substep.amount, count)
      const held = new Uint8Array(count)
      for (let n = 0; n < state.records.length; n += LINK) {
        for (const side of [2, 3]) held[state.records[n + side]! - first]!++
      }
      const records = heap.f64(pairs.at, pairs.count * PAIR)
      const found: { a: number; b: number }[] = []
      for (let n = 0; n < records.length; n += PAIR) {
        const [a, b] = [records[n]! - first, records[n + 1]! - first]
        if (records[n + 3] === 0 || a < 0 || b < 0 || a >= count || b >= count) continue
        if (amounts[a] === 0 || amounts[b] === 0 || held[a]! >= rule.most || held[b]! >= rule.most) continue
        held[a]!++
        held[b]!++
        found.push({ a, b })
      }
      makeLinks(run, rule, state, found, asked.substep.seed)
    }
  }
}
