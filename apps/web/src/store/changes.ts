/** What an edit has changed, in words: for undo, and for the list of what happened. */
import {
  BIRTHS,
  CUES,
  DEFORMATIONS,
  GOALS,
  INFLUENCES,
  MASKS,
  type Parameters,
  type Shot,
} from '@tangle/core'
import { inOrder } from './inOrder.ts'

type Entry = Record<string, unknown> & { id: string; kind?: string; name?: string }
interface Sort {
  /** What one of them is called where it has no name. */
  word: string
  kinds: { kind: string; label: string; parameters: Parameters }[]
}
const plain = (word: string): Sort => ({ word, kinds: [] })

/** Lists of a document and of a population, by their keys. */
const LISTS: Record<string, Sort> = {
  meshes: plain('mesh'),
  masks: { word: 'mask', kinds: MASKS },
  combings: plain('combing'),
  cameras: plain('camera'),
  populations: plain('population'),
  births: { word: 'birth', kinds: BIRTHS },
  cues: { word: 'cue', kinds: CUES },
  goals: { word: 'goal', kinds: GOALS },
  influences: { word: 'influence', kinds: INFLUENCES },
  attributes: plain('attribute'),
  deform: { word: 'deformation', kinds: DEFORMATIONS },
}

/** Parts of a document by the words of the interface. */
const PARTS: Record<string, string> = {
  frames: 'frame range',
  quality: 'quality',
  stage: 'camera, backdrop and light',
  lifted: 'values to try first',
  particle: 'each particle',
  look: 'look',
  phases: 'phases',
  place: 'place',
  source: 'what it is made of',
  eaten: 'what eats it',
  cut: 'what cuts it',
  detail: 'detail',
  visible: 'seen or hidden',
  name: 'name',
  weights: 'weights',
  responses: 'responses',
  muted: 'muted or not',
  keep: 'what is kept',
  material: 'material',
}

/** "Wind: air speed", "Gravity added", "2 masks removed"; several things that changed at once are counted. */
export function changeInWords(before: Shot, after: Shot): string {
  const changes = changesOf(before as unknown as Tree, after as unknown as Tree)
  if (changes.length === 0) return 'nothing'
  const [first, ...others] = changes
  return others.length === 0 ? first! : `${first}, and ${others.length} more`
}

/** Each difference of two documents, in words. */
export const differencesInWords = (one: Shot, other: Shot): string[] =>
  changesOf(one as unknown as Tree, other as unknown as Tree)

type Tree = Record<string, unknown>

function changesOf(before: Tree, after: Tree, within = ''): string[] {
  const keys = [...new Set([...Object.keys(before), ...Object.keys(after)])]
  return keys.flatMap((key) => {
    const [was, is] = [before[key], after[key]]
    if (was === is || inOrder(was) === inOrder(is)) return []
    const sort = LISTS[key]
    if (sort && Array.isArray(was) && Array.isArray(is))
      return listChanges(sort, was as Entry[], is as Entry[])
    return [within ? `${within}: ${PARTS[key] ?? key}` : (PARTS[key] ?? key)]
  })
}

function listChanges(sort: Sort, before: Entry[], after: Entry[]): string[] {
  const added = after.filter(({ id }) => !before.some((one) => one.id === id))
  const removed = before.filter(({ id }) => !after.some((one) => one.id === id))
  const told = (some: Entry[], what: string): string[] =>
    some.length === 0 ? [] : [some.length === 1 ? `${nameOf(sort, some[0]!)} ${what}` : `${some.length} ${sort.word}s ${what}`] // prettier-ignore
  const inside = after.flatMap((one) => {
    const was = before.find(({ id }) => id === one.id)
    return was && was !== one ? entryChanges(sort, was, one) : []
  })
  const order = (all: Entry[]): string => all.map(({ id }) => id).join(' ')
  const moved = added.length + removed.length === 0 && order(before) !== order(after)
  return [...told(added, 'added'), ...told(removed, 'removed'), ...inside, ...(moved ? [`order of ${sort.word}s`] : [])] // prettier-ignore
}

function entryChanges(sort: Sort, was: Entry, one: Entry): string[] {
  const parameters: Parameters = sort.kinds.find(({ kind }) => kind === one.kind)?.parameters ?? {}
  const name = nameOf(sort, one)
  return changesOf(was, one, name).map((words) => {
    const key = words.slice(name.length + 2)
    const label = parameters[key]?.label
    return label ? `${name}: ${label.toLowerCase()}` : words
  })
}

const nameOf = ({ word, kinds }: Sort, { name, kind }: Entry): string =>
  name ?? kinds.find((one) => one.kind === kind)?.label ?? word
