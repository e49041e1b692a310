import type { Look, Shot } from '@tangle/core'

/** The places of work on a shot, in the order in which the work is done. */
export const STEPS = [
  { id: 'meshes', label: 'Meshes', count: (shot: Shot) => String(shot.meshes.length) },
  { id: 'masks', label: 'Masks', count: (shot: Shot) => String(shot.masks.length + shot.combings.length) },
  {
    id: 'births',
    label: 'Births',
    count: (shot: Shot) => plural(shot.populations.flatMap((p) => p.births).length, 'birth'),
  },
  {
    id: 'motion',
    label: 'Motion',
    count: (shot: Shot) =>
      `${shot.populations.flatMap((p) => p.influences).filter((i) => !i.muted).length} acting`,
  },
  { id: 'look', label: 'Look', count: (shot: Shot) => drawnAs(shot.populations[0]?.look) },
  { id: 'takes', label: 'Takes', count: () => '' },
] as const
export type Step = (typeof STEPS)[number]['id']

const plural = (n: number, word: string): string => `${n} ${word}${n === 1 ? '' : 's'}`

function drawnAs(look: Look | undefined): string {
  if (look?.draw !== 'instances') return look?.draw ?? '–'
  const meshes = look.instances?.set.length ?? 0
  return meshes === 1 ? '1 mesh' : `${meshes} meshes`
}
