import type { ExportKind } from './kind.ts'
import { ply } from './ply.ts'
import { usda } from './usda.ts'
import { usdClips } from './usdClips.ts'
import { usdc } from './usdc.ts'
import { glb } from './glb.ts'
import { csv, parquet } from './tables.ts'
import { vdb } from './vdb.ts'
import { vtp } from './vtp.ts'

/** Every format that takes are written in. */
export const EXPORTS: ExportKind[] = [usdc, usda, usdClips, ply, vtp, glb, vdb, csv, parquet]
