import { and, eq } from 'drizzle-orm'
import type { z } from 'zod'
import { replaceRef } from '#core/mock-up/materials/uses'
import { applyChange } from '#core/mock-up/scene/change'
import type { orderComparisonSchema } from '#shared/contracts/decisions.contract'
import { getMockUpRow } from '../mock-ups/mock-ups'
import { orderShot } from '../mock-ups/order-pictures'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { items, versions } from '../tables/library.table'
import { pins } from '../tables/project.table'

/** A shot of a project's mock-up, once with the version that is pinned and once with the approved one. Returns the ids of both pictures. */
export async function orderComparison(
  { db, queue }: Pick<Context, 'db' | 'queue'>,
  actor: Actor,
  projectId: number,
  { itemId, mockUpId, shot }: z.output<typeof orderComparisonSchema>,
): Promise<number[]> {
  return db.transaction(async tx => {
    await getProjectRow(tx, actor, projectId)
    const mockUp = await getMockUpRow(tx, actor, mockUpId)
    const [pinned] = await tx
      .select({ item: items, versionId: pins.versionId })
      .from(pins)
      .innerJoin(items, eq(items.id, pins.itemId))
      .where(and(eq(pins.projectId, projectId), eq(pins.itemId, itemId), mayRead(actor, items.libraryId)))
    if (!pinned || pinned.item.approvedVersionId === null || mockUp.projectId !== projectId) throw notFound('This pin')
    const { code, approvedVersionId } = pinned.item
    const made: number[] = []
    for (const versionId of [pinned.versionId, approvedVersionId]) {
      const [version] = await tx.select().from(versions).where(eq(versions.id, versionId))
      const change = replaceRef(mockUp.scene, code, { code, version: version.number, inputKey: version.inputKey })
      const scene = applyChange(mockUp.scene, change).scene
      made.push(await orderShot({ tx, queue }, actor, mockUp, scene, shot, [`${code} version ${version.number}`]))
    }
    return made
  })
}
