/** A demo shot. `asset` names the stored mesh of a shape by its id. */
export interface DemoShot {
  title: string
  build(asset: (id: string) => string): Record<string, unknown>
}

/** The name of a shot on the command line. */
export const slugOf = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')

export const mesh = (asset: (id: string) => string, id: string, name: string, place = {}) => ({
  id,
  name,
  source: { asset: asset(id) },
  place,
})
