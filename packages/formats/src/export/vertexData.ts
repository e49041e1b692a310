/** What files say of the vertices of a skin: its colours, where it has those of its particles, and the attributes that it carries. */
import {
  ATTRIBUTES,
  ownAttribute,
  ownId,
  skinId,
  type Attribute,
  type MeshFrame,
  type Shot,
} from '@tangle/core'
import { coloursOf } from './colours.ts'

export interface VertexAttribute extends Pick<Attribute, 'width'> {
  name: string
  files: NonNullable<Attribute['files']>
  values: Float32Array
}
export interface VertexData {
  /** Linear RGB each; null where it has none of its own. */
  colours: Float32Array | null
  attributes: VertexAttribute[]
}

export function vertexDataOf(shot: Shot, mesh: MeshFrame): VertexData {
  const population = shot.populations.find(({ id }) => skinId(id) === mesh.id)
  if (!population || !mesh.columns) return { colours: null, attributes: [] }
  const { look, attributes: own } = population
  const count = mesh.positions.length / 3
  const columns = { ...mesh.columns, ...(mesh.velocities ? { velocity: mesh.velocities } : {}) }
  return {
    colours: look.skin?.colour === 'look' ? coloursOf(look, { id: mesh.id, count, columns }, own) : null,
    attributes: Object.entries(mesh.columns).flatMap(([name, values]): VertexAttribute[] => {
      const added = own.find(({ id }) => id === ownId(name))
      const { width, files } = added ? ownAttribute(added) : ATTRIBUTES[name as 'temperature']
      // a colour is told as the colour
      return files && name !== 'colour' ? [{ name, width, files, values }] : []
    }),
  }
}
