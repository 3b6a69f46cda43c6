import { createHash } from 'node:crypto'
import type { OpenPbrParameters, Tiling } from '#core/material/open-pbr'
import { isShownRole } from '#files/items/item-source'

export interface RenderInput {
  files: readonly { role: string; hash: string; handednessHint: 'openGl' | 'directX' | null }[]
  widthMm: number | null
  tiling?: Tiling
  constants: Partial<OpenPbrParameters>
}

/** Key of all that a picture of an item depends on, apart from the rig. */
export function computeInputKey({ files, widthMm, tiling, constants }: RenderInput): string {
  const parts = files
    .filter(f => isShownRole(f.role))
    .map(f => [f.role, f.hash, f.handednessHint])
    .sort((a, b) => JSON.stringify(a).localeCompare(JSON.stringify(b)))
  return createHash('sha256')
    .update(JSON.stringify([parts, widthMm, constants, ...(tiling === 'once' ? [tiling] : [])]))
    .digest('hex')
}
