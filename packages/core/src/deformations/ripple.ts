import { unit } from '../math/vector.ts'
import { direction, number } from '../document/parameters.ts'
import { deformation } from './deformation.ts'

/** p += n·amount·sin(2π·(d·p/wavelength − speed·t/wavelength)): waves that run along d. */
export const ripple = deformation({
  kind: 'ripple',
  label: 'Ripple',
  glyph: '∿',
  help: 'Waves that run over the surface and push it in and out',
  source: 'A travelling sine wave',
  parameters: {
    amount: number({
      label: 'Amount',
      unit: 'm',
      help: 'How far it is pushed at most',
      default: 0.05,
      range: [-1e3, 1e3],
      usual: [0, 0.5],
      step: 0.005,
      keyable: true,
    }),
    wavelength: number({
      label: 'Wavelength',
      unit: 'm',
      help: 'From crest to crest',
      default: 0.5,
      range: [0.001, 1e5],
      usual: [0.05, 5],
      step: 0.01,
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      help: 'How fast the crests run',
      default: 0.5,
      range: [-1e4, 1e4],
      usual: [0, 5],
      step: 0.05,
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where the crests run, in the mesh’s own space',
      default: [0, 1, 0],
    }),
  },
  deform({ amount, wavelength, speed, direction }, { machine, count, points, rest, normals, time, scale }) {
    const [x, y, z] = unit(direction)
    const frequency = scale / wavelength
    const turns = (time * speed) / wavelength
    machine.run('rippleMesh', count, {
      points,
      rest,
      normals,
      amount: amount / scale,
      frequency,
      turns,
      dx: x,
      dy: y,
      dz: z,
    })
  },
})
