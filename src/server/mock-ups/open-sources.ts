import { listRefs } from '#core/mock-up/list-refs'
import type { Scene } from '#core/mock-up/scene'
import type { ItemSource } from '#files/items/load-item'
import { findVersionSource } from '../items/version-source'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { resolveRefs } from './resolve-items'

/** What a scene shows to somebody, opened, by the keys of their inputs; what they may not see is not among it. */
export async function openSources(context: Context, actor: Actor, scene: Scene): Promise<Record<string, ItemSource>> {
  const sources: Record<string, ItemSource> = {}
  for (const { ref, state } of await resolveRefs(context, actor, listRefs(scene))) {
    const found = state === 'hidden' ? null : await findVersionSource(context, ref.inputKey)
    if (found) sources[ref.inputKey] = found.source
  }
  return sources
}
