/** Lettering made into a closed mesh: outlines of a font, drawn out and bevelled. */
import { weld, type Mesh, type MeshSource } from '@tangle/core'
import * as opentypeModule from 'opentype.js'
import type opentype from 'opentype.js'
import { ExtrudeGeometry, ShapePath } from 'three'
import { FormatFault } from '../fault.ts'

type TextSource = Extract<MeshSource, { text: unknown }>['text']

/** Node gives the package as a default, bundlers as names. */
const { parse } = opentypeModule.default ?? (opentypeModule as unknown as typeof opentype)

/** Steps per curve of an outline, and per bevel. */
const CURVE = 8
const BEVEL = 3
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
  const shapes = path.toShapes()
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
  return weld({ positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) })
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
