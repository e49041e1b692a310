/** Names that follow what they name until they are changed by hand, and no two in a list that are the same. */
import { freshName, type Combing, type Goal, type Population, type Shot, type ShotMesh } from '@tangle/core'

interface Named {
  id: string
  name: string
}

/** A document after an edit, with the names that follow from it. */
export function withNames(before: Shot, after: Shot): Shot {
  const apart = rename(before, after, (all, was) => setApart(all, was))
  return rename(before, apart, (all, was, given) => follow(all, was, given, before, apart))
}

type Renamer = <T extends Named>(all: T[], was: T[], given: Given<T>) => T[]
/** The name that an entry is given when it is made, or undefined where that is nobody's. */
type Given<T> = (entry: T, shot: Shot) => string | undefined

/** All lists of a document with other names; lists that are as they were stay the same. */
function rename(before: Shot, after: Shot, by: Renamer): Shot {
  if (before === after) return after
  const changes: Partial<Shot> = {}
  const put = <K extends 'meshes' | 'masks' | 'combings' | 'cameras' | 'populations'>(
    key: K,
    list: Shot[K],
  ): void => {
    if (list !== after[key]) changes[key] = list
  }
  put('meshes', by(after.meshes, before.meshes, meshName))
  put(
    'masks',
    by(after.masks, before.masks, () => undefined),
  )
  put('combings', by(after.combings, before.combings, combingName))
  put(
    'cameras',
    by(after.cameras, before.cameras, () => undefined),
  )
  const populations = by(after.populations, before.populations, populationName)
  const inside = populations.map((one) => {
    const was = before.populations.find(({ id }) => id === one.id)
    const goals = by(one.goals, was?.goals ?? [], goalName)
    const attributes = by(one.attributes, was?.attributes ?? [], () => undefined)
    return goals === one.goals && attributes === one.attributes ? one : { ...one, goals, attributes }
  })
  put('populations', inside.some((one, i) => one !== populations[i]) ? inside : populations)
  return Object.keys(changes).length > 0 ? { ...after, ...changes } : after
}

const nameIn = (all: Named[], id: string | undefined): string | undefined =>
  all.find((one) => one.id === id)?.name
const madeOf = (name: string | undefined, words: (of: string) => string): string | undefined =>
  name === undefined ? undefined : words(name)

const goalName: Given<Goal> = ({ mesh, population }, { meshes, populations }) =>
  nameIn(meshes, mesh as string) ?? nameIn(populations, population as string)
const combingName: Given<Combing> = ({ mesh }, { meshes }) =>
  madeOf(nameIn(meshes, mesh), (of) => `Combing of ${of}`)
const meshName: Given<ShotMesh> = ({ source }, { meshes }) =>
  'fracture' in source
    ? madeOf(nameIn(meshes, source.fracture.mesh), (of) => `${of} in pieces`)
    : 'shell' in source
      ? madeOf(nameIn(meshes, source.shell.mesh), (of) => `Shell of ${of}`)
      : undefined
const populationName: Given<Population> = ({ births }, { populations }) =>
  madeOf(nameIn(populations, births[0]?.from), (of) => `Wake of ${of}`)

/** What is new or was renamed gets another name where that is taken. */
function setApart<T extends Named>(all: T[], was: T[]): T[] {
  if (all === was) return all
  const isNew = (one: T): boolean => was.find(({ id }) => id === one.id)?.name !== one.name
  const taken = all.filter((one) => !isNew(one)).map(({ name }) => name)
  return kept(all, (one) => {
    if (!isNew(one)) return one.name
    const name = freshName(one.name, taken)
    taken.push(name)
    return name
  })
}

/** What still has the name it was given takes the one that it would be given now. */
function follow<T extends Named>(all: T[], was: T[], given: Given<T>, before: Shot, after: Shot): T[] {
  const names = new Map(all.map(({ id, name }) => [id, name]))
  return kept(all, (one) => {
    const old = was.find(({ id }) => id === one.id)
    if (old?.name !== one.name) return one.name
    const [then, now] = [given(old, before), given(one, after)]
    if (then === undefined || now === undefined || then === now || !isGiven(one.name, then)) return one.name
    names.delete(one.id)
    const name = freshName(now, [...names.values()])
    names.set(one.id, name)
    return name
  })
}
/** Whether a name is the one that was given, with or without a number that sets it apart. */
const isGiven = (name: string, given: string): boolean =>
  name === given || (name.startsWith(`${given} `) && /^\d+$/.test(name.slice(given.length + 1)))

/** The list with other names; the same list where all keep theirs. */
function kept<T extends Named>(all: T[], name: (one: T) => string): T[] {
  const next = all.map((one) => {
    const called = name(one)
    return called === one.name ? one : { ...one, name: called }
  })
  return next.some((one, i) => one !== all[i]) ? next : all
}
