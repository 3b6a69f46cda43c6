import { format } from 'date-fns'
import { inArray } from 'drizzle-orm'
import { listRefs, refKey } from '#core/mock-up/materials/list-refs'
import type { Schedule, ScheduleForm, ScheduleLayout } from '#shared/contracts/schedules.contract'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { getPreviewFile } from '../previews/previews'
import { mockUpPictures } from '../tables/mock-up.table'
import { projects } from '../tables/project.table'
import { getMockUpRow } from './mock-ups'
import { toStem } from './order-pictures'
import { resolveRefs } from './resolve-items'
import { getSchedule } from './schedule'

type Working = Context & { compute: ComputePool }

const today = (): string => format(new Date(), 'd MMMM yyyy')
const PICTURE_PX = 240

/** The schedule of a mock-up as a file. */
export async function saveSchedule(
  context: Working,
  actor: Actor,
  id: number,
  form: ScheduleForm,
  layout: ScheduleLayout,
  against?: number,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const schedule = await getSchedule(context, actor, id, { waste: layout.wastePercent, against })
  return writeScheduleFile(context, actor, schedule, form, layout)
}

/** A schedule as a file, with the previews of what is in it. */
export async function writeScheduleFile(
  context: Working,
  actor: Actor,
  schedule: Schedule,
  form: ScheduleForm,
  layout: ScheduleLayout,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const pictures: Record<string, string> = {}
  if (form !== 'csv' && layout.columns.includes('picture'))
    for (const { preview } of schedule.rows) {
      const found = preview ? /^\/api\/previews\/(\d+)$/.exec(preview) : null
      if (!preview || !found || pictures[preview]) continue
      const hash = await getPreviewFile(context.pool, actor.id, Number(found[1]), { width: PICTURE_PX })
      pictures[preview] = await context.storage.localPath(hash)
    }
  const bytes = await context.compute.run('writeSchedule', { schedule, layout, form, pictures, date: today() })
  return { bytes, fileName: `${toStem(schedule.title)}-schedule.${form}` }
}

/** Pictures of a mock-up to print or send, with what is in them. */
export async function savePages(
  context: Working,
  actor: Actor,
  id: number,
  pictureIds: readonly number[],
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { db, storage, compute } = context
  const mockUp = await getMockUpRow(db, actor, id)
  const rows = (
    await db
      .select()
      .from(mockUpPictures)
      .where(isOneOf(mockUpPictures.id, [...pictureIds]))
  ).filter(p => p.mockUpId === id && p.hash !== null)
  if (rows.length === 0) throw new ProblemError('notReady', 'None of these pictures is rendered yet.')
  const refs = new Map(rows.flatMap(p => listRefs(p.scene)).map(ref => [refKey(ref), ref]))
  const items = (await resolveRefs(context, actor, [...refs.values()])).filter(i => i.state !== 'hidden')
  const [project] = mockUp.projectId
    ? await db
        .select()
        .from(projects)
        .where(inArray(projects.id, [mockUp.projectId]))
    : []
  const bytes = await compute.run('writePicturePages', {
    title: mockUp.title,
    project: project ? `${project.code} ${project.title}` : null,
    date: today(),
    pictures: await Promise.all(
      pictureIds.flatMap(wanted => {
        const p = rows.find(r => r.id === wanted)
        if (!p) return []
        return [
          storage.localPath(p.hash!).then(path => ({
            path,
            caption: [p.shotName, p.skyName ?? 'house light', ...p.variantNames].join(', '),
            note: `${p.quality === 'final' ? 'Final' : 'Draft'}, picture ${p.id}`,
          })),
        ]
      }),
    ),
    items: items
      .map(({ ref, name, maker, licence }) => ({ code: ref.code, name, maker, licence }))
      .sort((a, b) => (a.code < b.code ? -1 : 1)),
  })
  return { bytes, fileName: `${toStem(mockUp.title)}-pictures.pdf` }
}
