import type { Mesh, TextSource } from '@tangle/core'
import { textMesh } from '@tangle/formats'
import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'

const { resolve } = createRequire(import.meta.url)

/** Makes lettering with the font that is shipped. */
export async function makeText(text: TextSource): Promise<Mesh> {
  const weight = Math.round(text.weight / 100) * 100
  const font = await readFile(resolve(`@fontsource/figtree/files/figtree-latin-${weight}-normal.woff`))
  return textMesh(text, font.buffer.slice(font.byteOffset, font.byteOffset + font.byteLength) as ArrayBuffer)
}
