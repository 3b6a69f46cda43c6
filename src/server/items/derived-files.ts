import { claimedType, MEDIA_TYPES } from '#core/codecs/sniff'
import type { DerivedFile } from '#files/fixes/apply-fixes'
import type { Inspection } from '#files/items/inspect-item'
import { storeBytes } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import type { SeenFinding } from '../tables/intake.table'

/** A list of files in which derived ones have taken the place of those they were made from. */
export async function putDerivedFiles<T extends { path: string; role: string; hash: string; handednessHint: string | null }>(
  context: Pick<WorkContext, 'db' | 'storage'>,
  files: readonly T[],
  derived: readonly DerivedFile[],
): Promise<T[]> {
  const fixed = [...files]
  for (const { from, path, role, handednessHint, bytes } of derived) {
    const { hash } = await storeBytes(context, bytes, MEDIA_TYPES[claimedType(path)])
    const at = fixed.findIndex(f => f.path === from)
    if (at >= 0) fixed[at] = { ...fixed[at], path, role, hash, handednessHint }
    // One of several that stand beside the rest, in place of an earlier one of its name.
    else fixed.splice(0, fixed.length, ...fixed.filter(f => f.path !== path), { ...fixed[0], path, role, hash, handednessHint })
  }
  return fixed
}

/** Findings with their pictures put into storage. */
export async function seeFindings(context: WorkContext, { findings, evidence }: Inspection): Promise<SeenFinding[]> {
  const seen: SeenFinding[] = [...findings]
  for (const { index, before, after } of evidence)
    seen[index] = {
      ...findings[index],
      before: (await storeBytes(context, before, 'image/webp')).hash,
      ...(after ? { after: (await storeBytes(context, after, 'image/webp')).hash } : {}),
    }
  return seen
}
