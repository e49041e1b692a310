import { linearColour } from '../look/ramps.ts'
import { choice, number, reference, text, vector } from '../document/parameters.ts'
import { ownName } from '../state/attribute.ts'
import { attributeOf, floats } from '../state/columns.ts'
import { APPLIED, influence } from './influence.ts'

/** In the order of their codes in the kernel. */
const HOW = ['once', 'rate', 'sum']

/** Changes an attribute of the population's own: sets it, draws it towards a value, or adds to it. */
export const set = influence({
  kind: 'set',
  family: 'change',
  label: 'Set',
  glyph: '≔',
  help: 'Sets an attribute of their own, draws it towards a value, or adds to it; responses make it follow anything',
  pitfall:
    'It has no effect on what is seen: let the look colour by the attribute, or let a response read it.',
  source: 'da/dt = r·(v − a), solved exactly',
  parameters: {
    attribute: reference({
      label: 'Attribute',
      help: 'Which of the population’s own attributes',
      to: 'attribute',
    }),
    strength: { ...APPLIED, range: [-1e6, 1e6], help: 'How far it applies; when it adds, times the value' },
    how: choice({
      label: 'How',
      help: 'At once, towards the value at a rate, or adding the value each second',
      when: { attribute: 'number vector colour' },
      default: 'once',
      options: { once: 'at once', rate: 'towards it', sum: 'add per second' },
    }),
    value: number({
      label: 'Value',
      unit: '',
      help: 'Of a number, and of every part of a vector; responses are factors of it',
      default: 1,
      range: [-1e9, 1e9],
      usual: [0, 10],
      step: 0.01,
      keyable: true,
      responsive: true,
      when: { attribute: 'number whole' },
    }),
    vector: vector({
      label: 'Value',
      unit: '',
      help: 'Of a vector; responses of Value are factors of it',
      default: [0, 0, 0],
      range: [-1e9, 1e9],
      usual: [-10, 10],
      step: 0.01,
      keyable: true,
      when: { attribute: 'vector' },
    }),
    colour: text({
      label: 'Colour',
      help: 'As #rrggbb; responses of Value are factors of it',
      default: '#ffffff',
      most: 7,
      pattern: { of: '^#[0-9a-fA-F]{6}$', says: 'must be a colour: "#rrggbb"' },
      when: { attribute: 'colour' },
    }),
    rate: number({
      label: 'Rate',
      unit: '1/s',
      help: 'How fast: 1 means within about a second',
      default: 1,
      range: [0, 1e6],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      when: { how: 'rate' },
    }),
  },
  updateAttributes(
    { attribute, how, value, vector, colour, rate },
    { machine, columns, amount, factors, h },
  ) {
    const name = ownName(attribute)
    const pointer = columns.at[name]
    if (!pointer) return
    const { width, files } = attributeOf(columns, name)
    const isColour = files?.usd.startsWith('color3f') ?? false
    const [x, y, z] = width === 1 ? [value, 0, 0] : isColour ? linearColour(colour) : vector
    const parts = { width, x: x!, y: y!, z: z! }
    // whole numbers have no way from one to the next: they are set at once, and rounded
    const whole = files?.usd.startsWith('int') ?? false
    const code = whole ? 0 : HOW.indexOf(how)
    const { count } = columns
    machine.run('setAttribute', count, {
      amount,
      attribute: pointer,
      ...parts,
      factors: factors('value'),
      how: code,
      rate,
      h,
    })
    if (!whole) return
    const values = floats(columns, name)
    values.forEach((one, i) => (values[i] = Math.round(one)))
  },
})
