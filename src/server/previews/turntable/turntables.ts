import { and, eq } from 'drizzle-orm'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { hasOutside } from '#core/standard/categories'
import type { Actor } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { notFound, ProblemError } from '../../platform/problem'
import { turntables } from '../../tables/rig.table'
import { getCurrentInput, isInputShownTo } from '../previews'

export const turntableUrl = (id: number): string => `/api/turntables/${id}`

/** Asks for the turn of an item's current version. */
export async function requestTurntable({ db, queue }: Context, actor: Actor, itemId: number): Promise<void> {
  const { kind, inputKey } = await getCurrentInput(db, actor, itemId)
  if (!hasOutside(kind)) throw new ProblemError('badRequest', 'Only a material or a model can be turned.')
  await db.transaction(tx => queue.send(tx, 'render-turntable', [{ inputKey }], 5))
}

export const storeTurntable = (db: Connection, row: Omit<typeof turntables.$inferInsert, 'rendererRevision'>) =>
  db
    .insert(turntables)
    .values({ ...row, rendererRevision: RENDERER_REVISION })
    .onConflictDoNothing()

/** Hash of a turn's bytes, if the asker may see an item of those inputs. */
export async function getTurntableFile(db: Connection, actor: Actor, id: number): Promise<string> {
  const [row] = await db
    .select({ hash: turntables.hash })
    .from(turntables)
    .where(and(eq(turntables.id, id), isInputShownTo(actor, turntables.inputKey)))
  if (!row) throw notFound('This turn')
  return row.hash
}
