import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/** dv/dt = −strength · v: speed falls by half every ln 2 / strength seconds, whatever the mass. */
export const drag = influence({
  kind: 'drag',
  family: 'forces',
  surrounds: true,
  label: 'Drag',
  glyph: '◌',
  help: 'Slows everything in proportion to its speed',
  pitfall: 'Nothing moves any more: above 5 a second every push is gone at once.',
  source: 'Linear (viscous) drag, solved exactly: v(t) = v₀·e^(−c·t)',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '1/s',
      help: 'Share of the speed lost per second',
      default: 1,
      range: [0, 1e4],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
  },
  evenForce: () => ({ acceleration: [0, 0, 0], damping: 1 }),
})
