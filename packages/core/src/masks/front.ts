import { number, reference } from '../document/parameters.ts'
import { mask } from './mask.ts'

/** 1 where another mask m is at the level, falling smoothly to 0 where |m − level| = width. */
export const front = mask({
  kind: 'front',
  label: 'Front',
  glyph: '◜',
  help: 'The narrow edge of another mask',
  pitfall: 'It is too thin to see: raise its width, or the softness of the mask that it is the edge of.',
  source: '',
  parameters: {
    of: reference({ label: 'Of', help: 'The mask whose edge it is', to: 'mask' }),
    level: number({
      label: 'Level',
      unit: '',
      help: 'Where the edge is',
      default: 0.5,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    width: number({
      label: 'Width',
      unit: '',
      help: 'How far the other mask may be from the level',
      default: 0.45,
      range: [0.0001, 10],
      usual: [0.01, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  write({ of, level, width }, places, out, { machine, write }) {
    write(of, places, out)
    machine.run('maskFront', places.count, { input: out, out, level, width })
  },
})
