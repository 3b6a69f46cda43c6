import { eq } from 'drizzle-orm'
import type { SetFacts, SetFactsResult } from '#shared/contracts/items.contract'
import { factWord, isGivenFact } from '#shared/units'
import { lockItems } from '../items/lock-items'
import { readFacts, writeFacts } from '../items/version-store'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { items } from '../tables/library.table'

/**
 * Gives or takes facts of items as they are now; what is measured stays as measured, and no new version comes of it: no file changes.
 * @returns with what each item said before, which undoes it
 */
export async function setItemFacts(context: Context, actor: Actor, wishes: SetFacts['items']): Promise<SetFactsResult> {
  if (!mayEdit(actor)) throw notAllowed('Giving facts')
  const measured = wishes.flatMap(w => Object.keys(w.facts)).find(name => !isGivenFact(name))
  if (measured) throw new ProblemError('badRequest', `The ${factWord(measured)} is measured from the files; it cannot be given.`)
  return context.db.transaction(async tx => {
    const result: SetFactsResult = { changed: [], refused: [], before: [] }
    const held = await lockItems(
      tx,
      actor,
      wishes.map(w => w.id),
    )
    for (const { id, facts } of wishes) {
      const item = held.get(id)
      if (!item) {
        result.refused.push({ id, code: '', reason: 'It is not there any more.' })
        continue
      }
      const old = await readFacts(tx, item.currentVersionId!)
      const changed = Object.entries(facts).filter(([name, value]) => (old[name] ?? '') !== (value ?? ''))
      if (changed.length === 0) continue
      const next = { ...old }
      for (const [name, value] of changed)
        if (value === null || value === '') delete next[name]
        else next[name] = value
      await writeFacts(tx, item.currentVersionId!, next)
      await tx.update(items).set({ updatedAt: new Date() }).where(eq(items.id, id))
      const before = Object.fromEntries(changed.map(([name]) => [name, old[name] === undefined ? null : String(old[name])]))
      await recordEvents(tx, [
        { personId: actor.id, subject: 'item', subjectId: id, verb: 'described', before, after: Object.fromEntries(changed) },
      ])
      await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: id })
      result.changed.push(id)
      result.before.push({ id, facts: before })
    }
    return result
  })
}
