import type { ExportKind } from './kind.ts'
import { ply } from './ply.ts'
import { usda } from './usda.ts'
import { usdc } from './usdc.ts'

/** Every format that takes are written in. */
export const EXPORTS: ExportKind[] = [usdc, ply, usda]
