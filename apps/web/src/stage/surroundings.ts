import { BACKDROPS } from '@tangle/core'
import {
  BackSide,
  BufferGeometry,
  Color,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  ShaderMaterial,
  SphereGeometry,
} from 'three'

/** A sky that goes from the horizon up and a ground that goes from it down. */
export function makeBackdrop(): Mesh<SphereGeometry, ShaderMaterial> {
  const material = new ShaderMaterial({
    side: BackSide,
    depthWrite: false,
    depthTest: false,
    uniforms: {
      sky: { value: new Color() },
      horizon: { value: new Color() },
      ground: { value: new Color() },
    },
    vertexShader: /* glsl */ `
      varying vec3 direction;
      void main() {
        direction = position;
        vec4 seen = modelViewMatrix * vec4(position, 0.0);
        gl_Position = projectionMatrix * vec4(seen.xyz, 1.0);
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 sky; uniform vec3 horizon; uniform vec3 ground;
      varying vec3 direction;
      void main() {
        float up = normalize(direction).y;
        float t = 1.0 - exp(-abs(up) * (up > 0.0 ? 5.0 : 22.0));
        gl_FragColor = vec4(mix(horizon, up > 0.0 ? sky : ground, t), 1.0);
        #include <tonemapping_fragment>
        #include <colorspace_fragment>
      }`,
  })
  const mesh = new Mesh(new SphereGeometry(10, 32, 16), material)
  mesh.renderOrder = -10
  mesh.frustumCulled = false
  return mesh
}

export function setBackdrop(mesh: Mesh<SphereGeometry, ShaderMaterial>, name: string): void {
  const backdrop = BACKDROPS[name] ?? BACKDROPS.dusk!
  for (const part of ['sky', 'horizon', 'ground'] as const)
    mesh.material.uniforms[part]!.value.set(backdrop[part])
}

const RINGS = 24
const AROUND = 128

/** The floor: rings one metre apart, each fifth one plainer to see, and a mark to the north (−z). */
export function makeFloor(): Group {
  const group = new Group()
  const add = (points: number[], opacity: number): void => {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new Float32BufferAttribute(points, 3))
    const material = new LineBasicMaterial({ transparent: true, opacity, depthWrite: false })
    group.add(new LineSegments(geometry, material))
  }
  for (let ring = 1; ring <= RINGS; ring++)
    add(circle(ring), (ring % 5 === 0 ? 0.6 : 0.34) * (1 - ring / (RINGS + 6)))
  for (let ring = 1; ring < 10; ring++) add(circle(ring / 10), 0.13)
  add(
    [
      0,
      0,
      -RINGS,
      0,
      0,
      -RINGS - 1.2,
      0,
      0,
      -RINGS - 1.2,
      -0.35,
      0,
      -RINGS - 0.6,
      0,
      0,
      -RINGS - 1.2,
      0.35,
      0,
      -RINGS - 0.6,
    ],
    0.7,
  )
  add([-0.12, 0, 0, 0.12, 0, 0, 0, 0, -0.12, 0, 0, 0.12], 0.6)
  group.renderOrder = -5
  return group
}

export function setFloor(group: Group, colour: string): void {
  for (const line of group.children) ((line as LineSegments).material as LineBasicMaterial).color.set(colour)
}

function circle(radius: number): number[] {
  const points: number[] = []
  for (let i = 0; i < AROUND; i++) {
    for (const end of [i, i + 1]) {
      const turn = (2 * Math.PI * end) / AROUND
      points.push(radius * Math.cos(turn), 0, radius * Math.sin(turn))
    }
  }
  return points
}
