import { choice, number, reference, vector, type ValuesOf } from '../document/parameters.ts'
import { birth, COMMON } from './birth.ts'

const { into, amount, direction, cone, speed, speedSpread } = COMMON

const PARAMETERS = {
  from: reference({
    label: 'Parents',
    help: 'The population whose particles bear them',
    to: 'population',
    itself: true,
  }),
  parentPhase: reference({
    label: 'While in',
    help: 'Parents bear only in this phase; at a change of phase, as they come into it',
    to: 'parentPhase',
    absent: 'any phase',
  }),
  into,
  amount: {
    ...amount,
    label: 'Each bears',
    help: 'One each so many metres of its way, so many a second, or some when something happens to it',
    default: { spacing: 0.1 },
    perParent: true,
  },
  stagger: number({
    label: 'Out of step',
    unit: '×',
    help: 'How far parents are ahead of one another, each by its own share of a birth: 0 all bear at once',
    default: 1,
    range: [0, 1],
    usual: [0, 1],
    step: 0.05,
  }),
  place: choice({
    label: 'Where',
    help: 'In the middle of the parent, or anywhere on the ball of its size',
    default: 'middle',
    options: { middle: 'its middle', surface: 'its surface' },
  }),
  offset: vector({
    label: 'Offset',
    unit: 'm',
    help: 'Across, up and ahead of the parent, as it is turned or, where it is not, as it goes: from its tail ahead is below 0',
    default: [0, 0, 0],
    range: [-1e4, 1e4],
    usual: [-1, 1],
    step: 0.01,
  }),
  scatter: number({
    label: 'Within',
    unit: 'm',
    help: 'Scattered in a ball of this radius',
    default: 0,
    range: [0, 1e4],
    usual: [0, 1],
    step: 0.01,
  }),
  mesh: reference({
    label: 'Laid onto',
    help: 'They are put on the nearest place of this mesh, and Ride keeps them there',
    to: 'mesh',
    absent: 'nothing: in the air',
  }),
  inherit: number({
    label: 'Inherit motion',
    unit: '×',
    help: 'How much of the velocity of the parent they take along: 0 leaves them where they are born',
    default: 0,
    range: [-10, 10],
    usual: [0, 1],
    step: 0.01,
  }),
  aim: choice({
    label: 'Set out',
    help: 'Away from the middle of the parent or off what it touched, along its way, or in a direction',
    default: 'away',
    options: { away: 'away', way: 'along its way', direction: 'direction' },
  }),
  direction,
  cone,
  speed,
  speedSpread,
  turned: choice({
    label: 'Turned',
    help: 'How they lie at birth, where they are drawn as discs or instances: which way the front looks',
    default: 'alike',
    options: {
      alike: 'all alike',
      random: 'at random',
      parent: 'as the parent',
      normal: 'off the surface',
      way: 'as they set out',
    },
  }),
  sizes: number({
    label: 'Size of the parent’s',
    unit: '×',
    help: 'As large as the parent is now, times this, and varied as the population’s sizes are',
    default: 1,
    range: [0, 1000],
    usual: [0, 2],
    step: 0.01,
    absent: 'sizes of their own',
  }),
  takes: choice({
    label: 'Take over',
    help: 'Whether they have their parent’s colour and those attributes that both populations have by the same id',
    default: 'nothing',
    options: { nothing: 'nothing', attributes: 'colour and attributes' },
  }),
  generations: number({
    label: 'Generations',
    unit: '',
    help: 'How often descendants bear again, where a population descends from itself',
    default: 1,
    range: [1, 100],
    usual: [1, 5],
    whole: true,
  }),
}
export type Descent = ValuesOf<typeof PARAMETERS>

/** Born of other particles: on their way, as time goes by, or when something happens to them. simulation/offspring.ts bears them. */
export const particles = birth({
  kind: 'particles',
  label: 'From particles',
  glyph: '⁖',
  help: 'Each particle of another population, or of its own, leaves others behind: by the way it goes, by time, or when it dies, touches or breaks',
  source: '',
  parameters: PARAMETERS,
})
