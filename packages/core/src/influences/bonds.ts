import { BONDS } from '../constraints/bondKind.ts'
import { choice, number, reference } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** Holds pieces of a broken mesh together along the faces that they share, until something parts them. */
export const bonds = influence({
  kind: 'bonds',
  family: 'constraints',
  label: 'Bonds',
  glyph: '⋈',
  help: 'Pieces that share a face move as one body, until a blow, their weight, a cut or a phase parts them',
  pitfall:
    'All parts at once: raise what it bears, or its variation. Nothing breaks: lower it, or let a blow count.',
  source:
    'Bolander, Saito, "Fracture analyses using spring networks with random geometry" (1998); Potyondy, Cundall, "A bonded-particle model for rock" (2004)',
  attributes: ['startVelocity', 'orientation', 'angularVelocity', 'piece', 'stress', 'bonds'],
  interacts: true,
  // those who are let go are still bonded
  parameters: {
    strength: {
      ...APPLIED,
      range: [0, 1000],
      help: 'Times what they bear, the lesser of both ends; at 0, and in phases of weight 0, nothing holds, and who moves apart stays apart',
    },
    bears: number({
      label: 'Bears',
      unit: 'kPa',
      help: 'Tension at which a bond breaks: crumbly earth 10, plaster 1000, stone 10 000',
      default: 200,
      range: [0, 1e9],
      usual: [1, 2000],
      step: 1,
      keyable: true,
    }),
    varies: number({
      label: 'Varies',
      unit: '×',
      help: 'As a share of that: 0.3 is from 70 % to 130 %',
      default: 0.3,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
    }),
    weak: reference({
      label: 'Weak along',
      help: 'A mask: where it is 1 as pieces are born, their bonds bear nothing',
      to: 'mask',
      absent: 'nowhere',
    }),
    cut: reference({
      label: 'Cut by',
      help: 'A mesh whose surface breaks the bonds that it passes through',
      to: 'mesh',
      absent: 'nothing',
    }),
    stretch: number({
      label: 'Parts at',
      unit: '×',
      help: 'How far pieces that are held may be drawn apart, as a share of the way between them',
      default: 0.01,
      range: [0, 10],
      usual: [0, 0.2],
      step: 0.005,
    }),
    blow: number({
      label: 'Blow lasts',
      unit: 's',
      help: 'Time over which a blow is borne: shorter blows are harder',
      default: 0.01,
      range: [0, 10],
      usual: [0.001, 0.1],
      step: 0.001,
    }),
    mends: choice({
      label: 'Mends',
      help: 'Whether a broken bond holds again once both pieces are back in place',
      default: 'never',
      options: { never: 'never', inPlace: 'back in place' },
    }),
  },
  constraint: BONDS,
  rule: ({ bears, varies, weak, cut, stretch, blow, mends }) => ({
    bears,
    varies,
    stretch,
    blow,
    mends: mends as 'never' | 'inPlace',
    ...(weak === undefined ? {} : { weak }),
    ...(cut === undefined ? {} : { cut }),
  }),
})
