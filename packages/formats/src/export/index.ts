import type { ExportKind } from './kind.ts'
import { ply } from './ply.ts'
import { usda } from './usda.ts'

/** Every format that takes are written in. */
export const EXPORTS: ExportKind[] = [ply, usda]
