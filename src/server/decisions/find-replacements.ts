import { wallQuerySchema } from '#shared/contracts/find.contract'
import { getWall } from '../library/wall'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'

const MOST = 3

/** Of items that went, by their codes: approved ones that look most like them, the nearest first. */
export async function findReplacements(context: Context, actor: Actor, codes: readonly string[]): Promise<Map<string, number[]>> {
  const found = new Map<string, number[]>()
  for (const code of codes) {
    try {
      const query = wallQuerySchema.parse({ like: code, state: 'approved', counts: 'no', offset: 0, limit: MOST + 1 })
      const { chips } = await getWall(context, actor, query)
      found.set(
        code,
        chips
          .filter(c => c.code !== code)
          .slice(0, MOST)
          .map(c => c.id),
      )
    } catch (problem) {
      // What was never measured is like nothing that is known.
      if (!(problem instanceof ProblemError)) throw problem
    }
  }
  return found
}
