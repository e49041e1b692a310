/** The ground that takes light and shadows, and runs out into the backdrop with the distance. */
import { BACKDROPS, type Shot } from '@tangle/core'
import { CircleGeometry, Color, Group, Mesh, MeshLambertMaterial, type Vector3 } from 'three'
import { planesOf } from './planes.ts'

/** Distances from the camera to what it looks at, out to which the ground is seen. */
const REACH = 3.2
/** Of its brightness that is left in full shadow. */
const IN_SHADOW = 0.4

export interface Seen {
  target: Vector3
  distance: number
}

/** The level on which particles lie at a frame: the highest floor that faces up, or 0. */
export function groundLevel(shot: Shot, frame: number): number {
  const level = planesOf(shot, frame).filter(
    ({ direction }) => direction[1] / Math.hypot(...direction) > 0.999,
  )
  return level.length > 0 ? Math.max(...level.map(({ height }) => height)) : 0
}

export function makeGround() {
  const material = new MeshLambertMaterial({
    transparent: true,
    depthWrite: false,
    // a mesh that lies level with it lies on it
    polygonOffset: true,
    polygonOffsetFactor: 8,
    polygonOffsetUnits: 64,
  })
  // of the sun on it, where nothing stands between
  const [full, colour] = [{ value: 1 }, { value: new Color() }]
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', '#include <common>\nvarying vec2 vOut;')
      .replace('#include <begin_vertex>', '#include <begin_vertex>\nvOut = position.xy;')
    Object.assign(shader.uniforms, { full, floorColour: colour })
    shader.fragmentShader = shader.fragmentShader
      .replace(
        '#include <common>',
        '#include <common>\nvarying vec2 vOut; uniform float full; uniform vec3 floorColour;',
      )
      .replace(
        '#include <opaque_fragment>',
        `diffuseColor.a *= 1.0 - smoothstep(0.25, 1.0, length(vOut));
        // so bright as the backdrop asks, whatever the sun's strength; darker where it does not reach
        float reached = full > 0.0 ? clamp(reflectedLight.directDiffuse.g / full, 0.0, 1.0) : 1.0;
        outgoingLight = floorColour * mix(${IN_SHADOW}, 1.0, reached);
        #include <opaque_fragment>`,
      )
  }
  const disc = new Mesh(new CircleGeometry(1, 96), material)
  disc.rotation.x = -Math.PI / 2
  disc.receiveShadow = true
  disc.frustumCulled = false
  // before the rings, which are a group of their own
  const object = new Group().add(disc)
  object.renderOrder = -6
  return {
    object,
    /** @param sunlight on a white ground, green part */
    show(backdrop: string, sunlight: number, level: number, { target, distance }: Seen): void {
      colour.value.set((BACKDROPS[backdrop] ?? BACKDROPS.dusk!).floor)
      full.value = sunlight
      object.position.set(target.x, level, target.z)
      object.scale.setScalar(REACH * distance)
    },
  }
}
