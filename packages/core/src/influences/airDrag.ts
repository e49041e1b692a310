import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/**
 * F = ½·ρ·c·A·v², A = π·r², m from radius and density. A ball falls at √(2·m·g / (ρ·c·A)).
 * Source: Rayleigh's drag equation; c ≈ 0.47 for a smooth ball (handbook value).
 */
export const airDrag = influence({
  kind: 'airDrag',
  family: 'forces',
  surrounds: true,
  label: 'Air drag',
  glyph: '◍',
  help: 'Drag of a ball in air or water: grows with the square of speed, so light and small ones fall slowly',
  pitfall: 'It does nothing to large, heavy balls: it goes by radius and density, so set those first.',
  source: 'Drag equation (Rayleigh 1876): F = ½ρcAv²',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: '1 is what physics says',
      default: 1,
      range: [0, 1e4],
      usual: [0, 4],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    coefficient: number({
      label: 'Coefficient',
      unit: '',
      help: '0.47 for a ball, 1.1 for a flat disc',
      default: 0.47,
      range: [0, 100],
      usual: [0, 2],
      step: 0.01,
      keyable: true,
    }),
    medium: number({
      label: 'Medium',
      unit: 'kg/m³',
      help: 'Density of what they move through: air 1.2, water 1000',
      default: 1.2,
      range: [0, 1e5],
      usual: [0, 10],
      step: 0.1,
      keyable: true,
    }),
  },
  applyForces({ coefficient, medium }, { machine, columns, amount }) {
    const { damping, velocity, radius, inverseMass } = columns.at
    const half = 0.5 * medium * coefficient * Math.PI
    machine.run('dampQuadratic', columns.count, { amount, damping, velocity, radius, inverseMass, half })
  },
})
