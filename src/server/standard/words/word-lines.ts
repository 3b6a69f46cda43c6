import { and, eq, isNull } from 'drizzle-orm'
import { HOUSE_VOCABULARY } from '#core/standard/house-vocabulary'
import type { SetWordLine, WordLineSet } from '#shared/contracts/standard.contract'
import { type Actor, mayEdit } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import { wordLines } from '../../tables/standard.table'

const OWN = /^own:(\d+)$/

/**
 * Sets a line of the vocabulary, or begins one. A line that ships gets the house's words in its place, or is taken out by none; set to what
 * ships, it is the shipped one again.
 * @returns its key, and what it was: set again, that undoes it
 */
export async function setWordLine({ db }: Pick<Context, 'db'>, actor: Actor, wish: SetWordLine): Promise<WordLineSet> {
  if (!mayEdit(actor)) throw notAllowed('Changing the vocabulary')
  if (wish.words.length === 1) throw new ProblemError('badRequest', 'One word alone means nothing else; give it another.')
  return db.transaction(async tx => {
    const done = await put(tx, actor, wish)
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'standard',
        subjectId: 0,
        verb: 'worded',
        before: { key: wish.key, words: done.before },
        after: { key: done.key, words: wish.words, isUse: wish.isUse },
      },
    ])
    return done
  })
}

async function put(tx: Connection, actor: Actor, { key, words, isUse }: SetWordLine): Promise<WordLineSet> {
  const said = { words: [...words], personId: actor.id, at: new Date() }
  if (key === '') {
    if (words.length === 0) throw new ProblemError('badRequest', 'A line needs words.')
    const [{ id }] = await tx
      .insert(wordLines)
      .values({ ...said, replaces: null, isUse })
      .returning({ id: wordLines.id })
    return { key: `own:${id}`, before: [] }
  }
  const own = OWN.exec(key)
  if (own) {
    const where = and(eq(wordLines.id, Number(own[1])), isNull(wordLines.replaces))
    const [row] = await tx.select().from(wordLines).where(where).for('update')
    // One that was taken out keeps its row, so that it can come back.
    if (!row) throw notFound('This line')
    await tx
      .update(wordLines)
      .set({ ...said, isUse })
      .where(where)
    return { key, before: row.words }
  }
  const shipped = HOUSE_VOCABULARY.find(([first]) => first === key)
  if (!shipped) throw notFound('This line')
  const [row] = await tx.select().from(wordLines).where(eq(wordLines.replaces, key)).for('update')
  if (JSON.stringify(words) === JSON.stringify(shipped)) await tx.delete(wordLines).where(eq(wordLines.replaces, key))
  else
    await tx
      .insert(wordLines)
      .values({ ...said, replaces: key })
      .onConflictDoUpdate({ target: wordLines.replaces, set: said })
  return { key, before: row?.words ?? [...shipped] }
}
