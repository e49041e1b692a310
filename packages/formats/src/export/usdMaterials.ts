/** The look of a mesh as a material of USD Preview Surface, below the mesh that it is bound to. Sources: the UsdPreviewSurface specification, UsdShadeMaterialBindingAPI. */
import { linearColour, type MeshLook, type Shot } from '@tangle/core'

/** Names of the prims, one below the other. */
export const MATERIAL = 'look'
export const SHADER = 'surface'
/** Of the output that the material takes from its shader. */
export const OUTPUT = 'outputs:surface'
export const BINDING = 'material:binding'
export const BINDING_SCHEMA = 'MaterialBindingAPI'
export const SHADER_ID: [name: string, token: string] = ['info:id', 'UsdPreviewSurface']

/** Refraction of glass. */
const GLASS = 1.5

export interface MaterialInput {
  /** As in `float inputs:metallic`. */
  declaration: string
  /** One number, or three. */
  values: number[]
}

/** The material of a mesh of the shot; null where it has none, as skins and covers, or has colours at its vertices. */
export function materialOf(shot: Shot, mesh: string): MaterialInput[] | null {
  const look = shot.meshes.find(({ id }) => id === mesh)?.look
  return look && look.colours === 'own' ? inputsOf(look) : null
}

function inputsOf({ colour, roughness, metalness, opacity, glass }: MeshLook): MaterialInput[] {
  return [
    { declaration: 'color3f inputs:diffuseColor', values: linearColour(colour) },
    ...(glass > 0 ? [{ declaration: 'float inputs:ior', values: [GLASS] }] : []),
    { declaration: 'float inputs:metallic', values: [metalness] },
    // what light goes through is seen through
    { declaration: 'float inputs:opacity', values: [opacity * (1 - glass)] },
    { declaration: 'float inputs:roughness', values: [roughness] },
  ]
}
