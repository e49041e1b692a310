/** Addresses of the font that text meshes are made of, one for each weight. */
export const FONTS = import.meta.glob<string>(
  '../../../../node_modules/@fontsource/figtree/files/figtree-latin-[0-9]*-normal.woff',
  { query: '?url', import: 'default', eager: true },
)
