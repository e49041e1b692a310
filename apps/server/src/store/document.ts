import { readShot, type Shot } from '@tangle/core'

/** A stored document as this version writes it: migrated, with what older ones left out filled in. */
export const current = (document: Shot): Shot => readShot(document).shot ?? document
