import { eq } from 'drizzle-orm'
import { listRefs } from '#core/mock-up/materials/list-refs'
import type { Scene } from '#core/mock-up/scene/scene'
import type { ItemSource } from '#files/items/item-source'
import { findVersionSource } from '../items/version-source'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { toSourceFiles } from '../platform/storage/stored-files'
import { files } from '../tables/library.table'
import { resolveRefs } from './resolve-items'

/** What a scene shows to somebody, opened, by the keys of their inputs; what they may not see is not among it. */
export async function openSources(context: Context, actor: Actor, scene: Scene): Promise<Record<string, ItemSource>> {
  const sources: Record<string, ItemSource> = {}
  for (const { ref, state } of await resolveRefs(context, actor, listRefs(scene))) {
    const found = state === 'hidden' ? null : await findVersionSource(context, ref.inputKey)
    if (found) sources[ref.inputKey] = found.source
  }
  const stage = await openStage(context, scene)
  return stage ? { ...sources, ...stage } : sources
}

/** The model that a scene stands in: whoever sees the scene sees it. */
async function openStage({ db, storage }: Context, { stage }: Scene): Promise<Record<string, ItemSource> | null> {
  if (stage.kind !== 'model') return null
  const { key, name } = stage.model
  const [there] = await db.select({ hash: files.hash }).from(files).where(eq(files.hash, key))
  if (!there) return null
  const [file] = await toSourceFiles(db, storage, [{ path: 'stage.glb', hash: key }])
  const given = { role: 'model', byContentOnly: false, handednessHint: null }
  return { [key]: { kind: 'model', name, files: [{ file, ...given }], widthMm: null, constants: {} } }
}
