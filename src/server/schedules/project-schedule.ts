import type { ItemRef } from '#core/mock-up/scene/scene'
import type { ItemKind } from '#core/standard/categories'
import { type JoinedTakeoff, joinTakeoffs, type TitledTakeoff } from '#core/takeoff/join-takeoffs'
import type { Schedule, ScheduleForm, ScheduleLayout, ScheduleRow } from '#shared/contracts/schedules.contract'
import { sinceKept } from '#shared/schedule-changes'
import { getMockUpRow } from '../mock-ups/mock-ups'
import { describeTakeoff, measureMockUp } from '../mock-ups/schedule'
import { writeScheduleFile } from '../mock-ups/write-documents'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { keepLines, readKeptLines } from './kept-schedules'
import { listPinnedAmounts } from './quantities'

type Working = Context & { compute: ComputePool }

interface Wish {
  waste: number
  /** Mock-ups of the project in which quantities are measured. */
  mockUps: readonly number[]
  /** A kept schedule of the project that it is held against. */
  against?: number
}

interface PinnedAmount {
  itemId: number
  ref: ItemRef
  kind: ItemKind
  typed: number | null
}

/**
 * What a project needs: everything that it pins and everything that stands in the mock-ups it is measured in, with how much of it. What was typed
 * for a pin counts instead of what was measured, so that the two never count together.
 */
export async function getProjectSchedule(
  context: Working,
  actor: Actor,
  id: number,
  { waste, mockUps, against }: Wish,
): Promise<Schedule> {
  const project = await getProjectRow(context.db, actor, id)
  const kept = against === undefined ? null : await readKeptLines(context.db, id, against)
  const measured: TitledTakeoff[] = []
  // One after another: each is opened whole.
  for (const mockUpId of [...new Set(mockUps)]) measured.push(await measureOne(context, actor, id, mockUpId))
  const { rows: pinned } = await listPinnedAmounts(context, id)
  const amounts = pinned.map(
    (p): PinnedAmount => ({
      itemId: p.item_id,
      ref: { code: p.code, version: p.number, inputKey: p.input_key },
      kind: p.kind,
      typed: p.amount,
    }),
  )
  const joined = joinTakeoffs(measured)
  const found = new Map([
    ...joined.materials.flatMap(m => (m.ref ? [[m.ref.code, m.areaM2] as const] : [])),
    ...joined.counted.map(c => [c.ref.code, c.count] as const),
  ])
  const { rows, missing } = await describeTakeoff(context, actor, withPins(joined, amounts), waste)
  const pinOf = new Map(
    amounts.map(a => [a.ref.code, { itemId: a.itemId, typed: a.typed, measured: found.get(a.ref.code) ?? null }]),
  )
  const lines = rows.map((row): ScheduleRow => ({ ...row, pin: row.code === null ? null : (pinOf.get(row.code) ?? null) }))
  return {
    title: project.title,
    project: project.code,
    missing,
    ...(kept ? sinceKept(lines, kept) : { rows: lines, gone: [] }),
  }
}

/** Keeps the schedule of a project as it stands now. */
export async function keepProjectSchedule(
  context: Working,
  actor: Actor,
  id: number,
  { name, mockUps }: { name: string; mockUps: readonly number[] },
): Promise<number> {
  const { rows } = await getProjectSchedule(context, actor, id, { waste: 0, mockUps })
  return keepLines(context, actor, id, name, rows)
}

/** The schedule of a project as a file. */
export async function saveProjectSchedule(
  context: Working,
  actor: Actor,
  id: number,
  { form, layout, ...wish }: { form: ScheduleForm; layout: ScheduleLayout } & Omit<Wish, 'waste'>,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const schedule = await getProjectSchedule(context, actor, id, { waste: layout.wastePercent, ...wish })
  return writeScheduleFile(context, actor, schedule, form, layout)
}

async function measureOne(context: Working, actor: Actor, projectId: number, mockUpId: number): Promise<TitledTakeoff> {
  const mockUp = await getMockUpRow(context.db, actor, mockUpId)
  if (mockUp.projectId !== projectId || mockUp.removedAt !== null) throw notFound('This mock-up of the project')
  return { title: mockUp.title, takeoff: await measureMockUp(context, actor, mockUp) }
}

/** What was measured, with the pins: in the version that is pinned, and as much as was typed. */
function withPins({ materials, counted, missing }: JoinedTakeoff, amounts: readonly PinnedAmount[]): JoinedTakeoff {
  const byCode = new Map(amounts.map(a => [a.ref.code, a]))
  const measuredCodes = new Set([...materials.flatMap(m => m.ref?.code ?? []), ...counted.map(c => c.ref.code)])
  const added = amounts.filter(a => !measuredCodes.has(a.ref.code))
  return {
    materials: [
      ...materials.map(m => {
        const pin = m.ref ? byCode.get(m.ref.code) : undefined
        // Edges of what was measured say nothing of what was typed.
        return pin ? { ...m, ref: pin.ref, ...(pin.typed === null ? {} : { areaM2: pin.typed, edgeM: null }) } : m
      }),
      ...added.flatMap(({ kind, ref, typed }) =>
        kind === 'material' ? [{ ref, name: ref.code, areaM2: typed ?? 0, edgeM: null, places: [] }] : [],
      ),
    ],
    counted: [
      ...counted.map(c => {
        const pin = byCode.get(c.ref.code)
        return pin ? { ...c, ref: pin.ref, count: pin.typed ?? c.count } : c
      }),
      ...added.flatMap(({ kind, ref, typed }) =>
        kind === 'material'
          ? []
          : [
              {
                kind: kind === 'model' ? ('piece' as const) : kind,
                ref,
                name: ref.code,
                count: typed ?? 0,
                scaled: 0,
                groups: [],
              },
            ],
      ),
    ],
    missing,
  }
}
