import type { CutPlane, SurfaceAnswer } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  DoubleSide,
  FloatType,
  LinearFilter,
  Mesh,
  MeshStandardMaterial,
  PlaneGeometry,
  RedFormat,
  ShaderMaterial,
  Vector3,
  type Color,
} from 'three'

export interface HeatColours {
  /** Of the mask at 0 and at 1, of its level line, and of the line with one of its inputs off. */
  low: Color
  high: Color
  line: Color
  other: Color
}

const PALETTE = /* glsl */ `
  uniform vec3 low; uniform vec3 high; uniform vec3 line; uniform vec3 other; uniform float level;
  vec3 heated(vec3 lit, float value, float second, bool compared) {
    vec3 tone = mix(low, high, value);
    vec3 shaded = lit * tone;
    float width = max(fwidth(value), 1e-5);
    float on = 1.0 - smoothstep(0.0, 1.6, abs(value - level) / width);
    if (width > 0.5) on = 0.0;
    vec3 result = mix(shaded, line, on);
    if (compared) {
      float w = max(fwidth(second), 1e-5);
      result = mix(result, other, w > 0.5 ? 0.0 : 1.0 - smoothstep(0.0, 1.6, abs(second - level) / w));
    }
    return result;
  }`

/** A material that shows a mask at the vertices ("heat") over ordinary shading; without one it is plain. */
export function liveMaterial(colours: HeatColours, tone: number): MeshStandardMaterial {
  const material = new MeshStandardMaterial({
    color: tone,
    roughness: 0.85,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 2,
  })
  const uniforms = {
    low: { value: colours.low },
    high: { value: colours.high },
    line: { value: colours.line },
    other: { value: colours.other },
    level: { value: 0.5 },
    hot: { value: 0 },
  }
  material.userData.uniforms = uniforms
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms)
    shader.vertexShader = shader.vertexShader
      .replace(
        '#include <common>',
        '#include <common>\nattribute float heat; attribute float heatOther; varying float vHeat; varying float vOther;',
      )
      .replace('#include <begin_vertex>', '#include <begin_vertex>\nvHeat = heat; vOther = heatOther;')
    shader.fragmentShader = shader.fragmentShader
      .replace(
        '#include <common>',
        `#include <common>\nvarying float vHeat; varying float vOther; uniform float hot;\n${PALETTE}`,
      )
      .replace(
        '#include <opaque_fragment>',
        'if (hot > 0.5) outgoingLight = heated(outgoingLight / max(diffuse, vec3(1e-3)) * 0.85, vHeat, vOther, hot > 1.5);\n#include <opaque_fragment>',
      )
  }
  return material
}

/** Puts a mesh of a moment into a drawn mesh. */
export function fillLive(
  object: Mesh<BufferGeometry, MeshStandardMaterial>,
  { positions, triangles, normals, values, others }: SurfaceAnswer['meshes'][number],
): void {
  object.geometry.dispose()
  const geometry = new BufferGeometry()
  const count = positions.length / 3
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setAttribute('normal', new BufferAttribute(normals, 3))
  geometry.setAttribute('heat', new BufferAttribute(values ?? new Float32Array(count), 1))
  geometry.setAttribute('heatOther', new BufferAttribute(others ?? new Float32Array(count), 1))
  geometry.setIndex(new BufferAttribute(triangles, 1))
  object.geometry = geometry
  const uniforms = object.material.userData.uniforms as { hot: { value: number } } | undefined
  if (uniforms) uniforms.hot.value = values ? (others ? 2 : 1) : 0
}

/** The plane in which a mask is shown in space. */
export function makeHeatPlane(colours: HeatColours) {
  const texture = new DataTexture(new Float32Array(1), 1, 1, RedFormat, FloatType)
  texture.minFilter = texture.magFilter = LinearFilter
  const material = new ShaderMaterial({
    transparent: true,
    side: DoubleSide,
    depthWrite: false,
    uniforms: {
      map: { value: texture },
      low: { value: colours.low },
      high: { value: colours.high },
      line: { value: colours.line },
      other: { value: colours.other },
      level: { value: 0.5 },
    },
    vertexShader: /* glsl */ `
      varying vec2 at;
      void main() { at = uv; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
    fragmentShader: /* glsl */ `
      varying vec2 at; uniform sampler2D map; ${PALETTE}
      void main() {
        float value = texture2D(map, at).r;
        vec3 colour = heated(vec3(1.0), value, 0.0, false);
        float edge = 1.0 - smoothstep(0.46, 0.5, max(abs(at.x - 0.5), abs(at.y - 0.5)));
        gl_FragColor = vec4(colour, edge * (0.10 + 0.5 * value));
        #include <colorspace_fragment>
      }`,
  })
  const object = new Mesh(new PlaneGeometry(2, 2), material)
  object.visible = false
  object.matrixAutoUpdate = false
  return {
    object,
    show(values: Float32Array | null, plane: CutPlane | null): void {
      object.visible = values !== null && plane !== null
      if (!values || !plane) return
      const size = Math.round(Math.sqrt(values.length))
      texture.image = { data: values, width: size, height: size }
      texture.needsUpdate = true
      const [across, up, centre] = [plane.across, plane.up, plane.centre].map((v) => new Vector3(...v)) as [
        Vector3,
        Vector3,
        Vector3,
      ]
      object.matrix.makeBasis(across, up, across.clone().cross(up).normalize()).setPosition(centre)
    },
  }
}
