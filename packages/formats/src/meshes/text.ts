/** Lettering made into a closed mesh: outlines of a font, drawn out and bevelled. */
import { weld, type Mesh, type MeshSource } from '@tangle/core'
import * as opentypeModule from 'opentype.js'
import type opentype from 'opentype.js'
import { ExtrudeGeometry, Path, Shape, ShapePath, type Vector2 } from 'three'
import { FormatFault } from '../fault.ts'

type TextSource = Extract<MeshSource, { text: unknown }>['text']

/** Node gives the package as a default, bundlers as names. */
const { parse } = opentypeModule.default ?? (opentypeModule as unknown as typeof opentype)

/** Steps per curve of an outline, and per bevel. */
const CURVE = 8
const BEVEL = 3
/** Points of an outline nearer than this share of a capital's height are one: half a unit of the font. */
const SAME = 7e-4
/** From line to line, in capital heights. */
const LINE = 1.6

/**
 * A mesh of a text, its capitals `size` metres high, standing on y = 0 about x = 0 and z = 0.
 * @param font bytes of a WOFF, TrueType or OpenType font
 * @throws FormatFault when nothing of the text can be drawn
 */
export function textMesh({ text, size, depth, bevel }: TextSource, font: ArrayBuffer): Mesh {
  const face = parse(font)
  const units = capitalHeight(face)
  const scale = size / units
  const path = new ShapePath()
  const lines = text.split('\n')
  lines.forEach((line, n) => {
    const glyphs = [...line].map((letter) => face.charToGlyph(letter))
    const width = glyphs.reduce((sum, glyph) => sum + (glyph.advanceWidth ?? 0), 0)
    let x = -width / 2
    for (const glyph of glyphs) {
      // glyph by glyph: shaping of whole strings fails on some fonts
      drawGlyph(path, glyph.path.commands, x * scale, (lines.length - 1 - n) * LINE * size, scale)
      x += glyph.advanceWidth ?? 0
    }
  })
  const shapes = path.toShapes().map((shape) => withoutIdlePoints(shape, size * SAME))
  if (shapes.length === 0)
    throw new FormatFault('text', 'has no letter that can be seen: type some letters of the Latin alphabet')
  const cut = Math.min(bevel, depth / 2)
  const geometry = new ExtrudeGeometry(shapes, {
    depth: depth - 2 * cut,
    curveSegments: CURVE,
    bevelEnabled: cut > 0,
    bevelThickness: cut,
    bevelSize: cut,
    bevelOffset: -cut,
    bevelSegments: BEVEL,
  })
  geometry.translate(0, 0, cut - depth / 2)
  const positions = geometry.getAttribute('position').array as Float32Array
  const mesh = weld({ positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) })
  return closed(mesh)
}

/**
 * The same outline without points that lie on the line between their neighbours, or on the one before. Caps are
 * triangulated without them, walls would be built with them, and the seam between would gape.
 */
function withoutIdlePoints(shape: Shape, near: number): Shape {
  const { shape: outline, holes } = shape.extractPoints(CURVE)
  const clean = new Shape(idleOut(outline, near))
  clean.holes = holes.map((hole) => new Path(idleOut(hole, near)))
  return clean
}

function idleOut(points: Vector2[], near: number): Vector2[] {
  const kept = [...points]
  for (let i = 0, passed = 0; passed < kept.length && kept.length > 3;) {
    const [a, p, b] = [kept.at(i - 1)!, kept[i]!, kept[(i + 1) % kept.length]!]
    const [ux, uy, vx, vy] = [p.x - a.x, p.y - a.y, b.x - p.x, b.y - p.y]
    const way = Math.hypot(ux, uy)
    if (way < near || Math.abs(ux * vy - uy * vx) <= 1e-4 * way * Math.hypot(vx, vy)) {
      kept.splice(i, 1)
      passed = 0
    } else {
      i++
      passed++
    }
    if (i >= kept.length) i = 0
  }
  return kept
}

/**
 * Fills holes with fans. The triangulation leaves out triangles that have no area in the outline; the bevel
 * then gives them some, and without them the seam would gape by a hair.
 */
function closed(mesh: Mesh): Mesh {
  const { positions, triangles } = mesh
  const count = positions.length / 3
  const edges = new Set<number>()
  for (let e = 0; e < triangles.length; e++)
    edges.add(triangles[e]! * count + triangles[e % 3 === 2 ? e - 2 : e + 1]!)
  /** Open edges run against the triangle that is missing: from its end to its start. */
  const next = new Map<number, number[]>()
  for (const edge of edges) {
    const [a, b] = [Math.floor(edge / count), edge % count]
    if (!edges.has(b * count + a)) next.set(b, [...(next.get(b) ?? []), a])
  }
  const added: number[] = []
  for (const start of next.keys()) {
    while (next.get(start)!.length > 0) {
      const loop = [start]
      for (let at = next.get(start)!.pop()!; at !== start; at = next.get(at)!.pop()!) loop.push(at)
      for (let k = 1; k + 1 < loop.length; k++) added.push(loop[0]!, loop[k]!, loop[k + 1]!)
    }
  }
  return added.length === 0 ? mesh : { positions, triangles: Uint32Array.from([...triangles, ...added]) }
}

/** Height of an H in the font's units. */
function capitalHeight(face: opentype.Font): number {
  const { yMax } = face.charToGlyph('H').getMetrics()
  return yMax > 0 ? yMax : face.unitsPerEm * 0.7
}

function drawGlyph(
  path: ShapePath,
  commands: opentype.PathCommand[],
  dx: number,
  dy: number,
  scale: number,
): void {
  const at = (x: number, y: number): [number, number] => [dx + x * scale, dy + y * scale]
  for (const c of commands) {
    if (c.type === 'M') path.moveTo(...at(c.x, c.y))
    else if (c.type === 'L') path.lineTo(...at(c.x, c.y))
    else if (c.type === 'Q') path.quadraticCurveTo(...at(c.x1, c.y1), ...at(c.x, c.y))
    else if (c.type === 'C') path.bezierCurveTo(...at(c.x1, c.y1), ...at(c.x2, c.y2), ...at(c.x, c.y))
  }
}
