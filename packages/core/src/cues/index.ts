import { attributeCue } from './attribute.ts'
import { after } from './after.ts'
import { contact } from './contact.ts'
import { frameCue } from './frame.ts'
import { goal } from './goal.ts'
import { insideCue } from './inside.ts'
import type { CueKind } from './cue.ts'
import { life } from './life.ts'
import { maskCue } from './mask.ts'
import { rest } from './rest.ts'
import { temperatureCue } from './temperature.ts'

/** Every kind of cue, in the order in which the interface offers them. */
export const CUES: CueKind[] = [
  maskCue,
  after,
  frameCue,
  insideCue,
  contact,
  rest,
  life,
  goal,
  temperatureCue,
  attributeCue,
]
