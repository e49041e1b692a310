import type { Influence } from '../document/types.ts'
import { influenceKind } from '../registry.ts'

/** Whether an influence makes particles carry one another: contacts between them, links. */
export const couples = ({ muted, kind }: Influence): boolean =>
  !muted && (influenceKind(kind).constraint?.couples ?? false)
