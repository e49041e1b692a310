/** What meshes are made of: as the stage shows them, and as files hand it to a renderer. */
import { choice, colour, number } from './parameters.ts'

const share = { unit: '', range: [0, 1] as [number, number], usual: [0, 1] as [number, number], step: 0.01 }

/** Values of the material of USD Preview Surface and of glTF 2.0, which both name them so. */
export const MESH_LOOK = {
  drawn: choice({
    label: 'Drawn',
    help: 'As a solid; as its shadow alone; or as what hides whatever is behind it and is not seen itself',
    default: 'seen',
    options: { seen: 'solid', shadow: 'its shadow', holdout: 'cut out' },
  }),
  colours: choice({
    label: 'Colour from',
    help: 'One colour, the colours that its vertices have in their file, or the pictures and colours of its materials there (GLB)',
    default: 'own',
    options: { own: 'one', vertices: 'its vertices', materials: 'its materials' },
  }),
  colour: colour({ label: 'Colour', help: 'Of its outside', default: '#b79a80', when: { colours: 'own' } }),
  inner: colour({
    label: 'Inside',
    help: 'Of faces along which it is cut or broken',
    default: '#745f4d',
  }),
  roughness: number({
    label: 'Roughness',
    help: '0 mirrors, 1 is dull',
    default: 0.85,
    ...share,
  }),
  metalness: number({
    label: 'Metal',
    help: '0 is wood, paper, skin; 1 is bare metal',
    default: 0,
    ...share,
  }),
  glass: number({ label: 'Glass', help: 'How much light goes through it', default: 0, ...share }),
  opacity: number({
    label: 'Opacity',
    help: 'How solid it is: below 1 it is seen through',
    default: 1,
    ...share,
  }),
}

/** What a mesh is made of, as it is seen and as files hand it on. */
export interface MeshLook {
  /** own, vertices or materials. */
  colours: string
  /** "#rrggbb", as inner is. */
  colour: string
  /** Of the faces along which it was cut or broken. */
  inner: string
  roughness: number
  metalness: number
  glass: number
  opacity: number
  /** seen, shadow or holdout. */
  drawn: string
}
