import type { FindQuery } from '#core/find/query/find-query'
import type { FoundView } from '#core/find/views/found-view'
import type { Narrowing } from '#shared/contracts/find.contract'
import type { Actor } from '../platform/access'
import type { Context, KnownAsker } from '../platform/context'
import { onlyUsableIn } from './asker'
import { readLikeWish } from './likeness'
import { toFindQuery } from './to-find-query'

/** What a narrowing finds for somebody. */
export async function findView(
  { db, finder }: Pick<Context, 'db' | 'finder'>,
  actor: Actor,
  given: Narrowing,
): Promise<{ asker: KnownAsker; query: FindQuery; view: FoundView }> {
  const asker = await onlyUsableIn(db, await finder.asker(actor), given.usableIn)
  const like = given.like.length > 0 ? readLikeWish(await finder.current(), given, asker) : null
  const query = toFindQuery(given, asker, finder.retired, like)
  return { asker, query, view: finder.find(query, asker) }
}
