/** Materials of what fades and shines: what is half seen-through covers half of the pixels, so that nothing has to be sorted. */
import { MeshDepthMaterial, type Material } from 'three'

/**
 * @param declared what the vertex shader needs to know how solid a thing is
 * @param solid how solid it is there, 0–1
 */
export function fade(material: Material, declared: string, solid: string): void {
  const glow = { value: 0 }
  material.userData.glow = glow
  material.onBeforeCompile = (shader) => {
    shader.uniforms.glow = glow
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', `#include <common>\n${declared}\nflat varying float vSolid;`)
      .replace('#include <begin_vertex>', `#include <begin_vertex>\nvSolid = ${solid};`)
    shader.fragmentShader = shader.fragmentShader
      .replace('#include <common>', '#include <common>\nflat varying float vSolid;\nuniform float glow;')
      // light of its own, in its colour
      .replace(
        '#include <emissivemap_fragment>',
        '#include <emissivemap_fragment>\ntotalEmissiveRadiance += diffuseColor.rgb * glow;',
      )
      .replace(
        '#include <clipping_planes_fragment>',
        `#include <clipping_planes_fragment>
        if (vSolid <= fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 0.999) discard;`,
      )
  }
}

/** What fades throws a fading shadow. */
export function fadingShadow(declared: string, solid: string): MeshDepthMaterial {
  const material = new MeshDepthMaterial()
  fade(material, declared, solid)
  return material
}

/** How bright the light is that it gives, as times its colour; 0: it is only lit. */
export function shine(material: Material | Material[], strength: number): void {
  for (const one of [material].flat()) (one.userData.glow as { value: number }).value = strength
}
