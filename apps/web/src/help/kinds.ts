/** What has help of its own: influences, masks and cues. */
import { CUES, INFLUENCES, MASKS, type Parameters } from '@tangle/core'

export type Sort = 'influence' | 'mask' | 'cue'
export interface Helped {
  sort: Sort
  kind: string
  /** The one of its values that is looked at. */
  parameter?: string
}
interface Kind {
  kind: string
  label: string
  glyph: string
  help: string
  pitfall: string
  source?: string
  parameters: Parameters
}
export const KINDS: Record<Sort, Kind[]> = { influence: INFLUENCES, mask: MASKS, cue: CUES }

export const helpedKind = ({ sort, kind }: Helped): Kind | undefined =>
  KINDS[sort].find((one) => one.kind === kind)

/** All of it, with the words by which it is found. */
export const ALL_HELP = (Object.keys(KINDS) as Sort[]).flatMap((sort) =>
  KINDS[sort].map(({ kind, label, help, pitfall, parameters }) => ({
    sort,
    kind,
    label: sort === 'influence' ? label : `${label} (${sort})`,
    words: [help, pitfall, ...Object.values(parameters).flatMap((one) => [one.label, one.help])].join(' '),
  })),
)
