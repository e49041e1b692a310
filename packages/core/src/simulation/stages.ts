/**
 * The frame loop as a list: what happens in a substep, in this order. Each stage is done for all populations before the
 * next begins, so that one may go to another. docs/solver.md and the milliseconds on screen are made from this list.
 */
import { removeLinkHalfKick } from '../constraints/links.ts'
import { stepRigidBodies } from '../constraints/rigidBodies.ts'
import { solveConstraints } from '../constraints/solver.ts'
import { sweepCollisions } from '../constraints/sweep.ts'
import { CONSTRAINTS } from '../registry.ts'
import { floats } from '../state/columns.ts'
import { applyBodyForces } from './bodyForces.ts'
import { accumulateCovers } from './coverAccumulation.ts'
import { emit } from './emission.ts'
import { conductHeat } from './heat.ts'
import { applyForces, constrained, runInfluences } from './influencePass.ts'
import { drift, integrate } from './motion.ts'
import { bearOffspring } from './offspring.ts'
import { posePieces, pushPieces, rememberUnhit } from './posedPieces.ts'
import { removeDead } from './removal.ts'
import { pairSeekers } from './seekers.ts'
import { transition } from './transitions.ts'
import { constraintMoment, forEachPopulation, type Moment, type World } from './world.ts'

export interface Stage {
  name: string
  /** What it does, in one line. */
  does: string
  /** What makes it cheaper, for artists. */
  cheaper: string
  /** At the first frame, too, before its first substep. */
  opens?: true
  /** At the first frame, too, with no time going by: what particles then are seen as. */
  shows?: true
  /** Only in substeps proper: not while it runs ahead to settle. */
  settledOnly?: true
  /** Once a frame, after its last substep. */
  perFrame?: true
  run(moment: Moment): void
}

export const STAGES: Stage[] = [
  {
    name: 'births',
    does: 'gives the particles that are born: floor(∫ rate dt), bursts, and what a mask sweeps; each at its own moment',
    cheaper: 'fewer births a second, or a lower preview share',
    opens: true,
    settledOnly: true,
    run: forEachPopulation(emit),
  },
  {
    name: 'pairing',
    does: 'settles whose goal is which place, for those that are born',
    cheaper: 'pair at random or in order rather than with the least travel',
    opens: true,
    settledOnly: true,
    run: forEachPopulation((population, moment) => pairSeekers(moment, population, moment.from)),
  },
  {
    name: 'phases',
    does: 'sends particles from phase to phase; the first cue in order that holds counts',
    cheaper: 'cues by age rather than by distance to a mesh',
    settledOnly: true,
    run: forEachPopulation(transition),
  },
  {
    name: 'pieces',
    does: 'tells grains that meet pieces of a broken mesh where these are',
    cheaper: 'fewer triangles in the mesh that was broken',
    opens: true,
    run: (moment) => posePieces(moment, moment.from),
  },
  {
    name: 'drift',
    does: 'x += v·h/2: forces are asked for half-way (leapfrog), so orbits neither wind up nor down',
    cheaper: 'fewer substeps',
    run: forEachPopulation(drift),
  },
  {
    name: 'forces',
    does: 'each influence adds to acceleration A, damping C and stiffness K, by weight × strength × responses',
    cheaper: 'fewer octaves of noise, fewer neighbours, or responses that do not ask a mesh',
    run: forEachPopulation((population, moment) => applyForces(population, moment)),
  },
  {
    name: 'torques',
    does: 'asks forces at six points of each rigid body: those that vary over it turn it',
    cheaper: 'fewer pieces that are free',
    run: forEachPopulation(applyBodyForces),
  },
  {
    name: 'motion',
    does: 'solves dv/dt = A − C·v − K·(x − x₀) exactly; age and distance travelled go on',
    cheaper: 'fewer substeps',
    run: forEachPopulation(integrate),
  },
  {
    name: 'half kick of links',
    does: 'takes back half of what links gave last time (leapfrog)',
    cheaper: 'fewer substeps',
    run: forEachPopulation(({ columns }, { machine, h }) => removeLinkHalfKick(columns, machine, h)),
  },
  {
    name: 'pins',
    does: 'influences that pin, such as Ride, put particles where they hold them; those do not give way to what follows',
    cheaper: 'a mesh that moves without rippling',
    run: forEachPopulation((population, moment) =>
      runInfluences(population, moment, 'projectPositions', ({ pins }) => pins ?? false),
    ),
  },
  {
    name: 'rigid bodies',
    does: 'what has a shape pushes, rubs, topples, rolls and rests; who is free flies and turns exactly',
    cheaper: 'fewer pieces, fewer substeps, and hulls that do not start pressed together',
    run(moment) {
      const populations = moment.populations.map((population) => constrained(population, moment))
      stepRigidBodies(populations, moment.memory, constraintMoment(moment))
      posePieces(moment, moment.to)
    },
  },
  {
    name: 'collisions',
    does: 'moves each particle against meshes and planes, exactly, on its way',
    cheaper: 'a simpler mesh to collide with, or one that keeps its shape',
    run: forEachPopulation((population, moment) => {
      rememberUnhit(population, moment)
      sweepCollisions(constrained(population, moment), constraintMoment(moment))
    }),
  },
  {
    name: 'constraints',
    does: 'links, contacts between particles and with meshes: `iterations` rounds; then velocities, friction, bounce; then overlaps',
    cheaper: 'fewer iterations, fewer neighbours in Self-collision, or Come to rest',
    run(moment) {
      const populations = moment.populations.map((population) => constrained(population, moment))
      solveConstraints(CONSTRAINTS, populations, moment.memory, constraintMoment(moment))
      pushPieces(moment)
      for (const one of moment.colliders.values()) one.free()
      moment.colliders.clear()
    },
  },
  {
    name: 'positions',
    does: 'influences correct positions: ride, return, settle, blend, stay, limits, stepping aside',
    cheaper: 'surfaces with fewer triangles',
    run: forEachPopulation((population, moment) =>
      runInfluences(population, moment, 'projectPositions', ({ pins }) => !pins),
    ),
  },
  {
    name: 'changes',
    does: 'influences change what particles are: size, opacity, colour, orientation, attributes of their own',
    cheaper: 'responses that do not ask a mesh or a mask',
    shows: true,
    run: forEachPopulation((population, moment) => runInfluences(population, moment, 'updateAttributes')),
  },
  {
    name: 'deaths',
    does: 'takes out whose age reaches its lifespan, to the nearest substep, or whose size is 0',
    cheaper: 'a longer lifespan',
    settledOnly: true,
    run: forEachPopulation(removeDead),
  },
  {
    name: 'offspring',
    does: 'gives what particles bear: by the way they went, by time, or at events; the newborn make up for the rest of the substep',
    cheaper: 'a wider spacing, a lower rate, or fewer at an event',
    opens: true,
    settledOnly: true,
    run: (moment) => bearOffspring(moment),
  },
  {
    name: 'heat',
    does: 'heat flows from warm particles to cold ones, and out of those that lie bare',
    cheaper: 'fewer particles that have Warmth',
    settledOnly: true,
    perFrame: true,
    run: conductHeat,
  },
  {
    name: 'covers',
    does: 'what lies on a mesh becomes height over it, runs off and melts',
    cheaper: 'a coarser detail of the cover',
    settledOnly: true,
    perFrame: true,
    run(moment) {
      accumulateCovers(moment)
      // who is covered dies now
      bearOffspring({ ...moment, from: moment.to - moment.h * moment.rate }, true)
    },
  },
]

/** Faster than this nothing has settled, m/s. */
const SETTLED = 0.03
export const isAtRest = ({ populations }: World): boolean =>
  populations.every(({ columns }) => floats(columns, 'velocity').every((v) => Math.abs(v) < SETTLED))
