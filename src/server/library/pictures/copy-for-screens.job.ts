import { sql } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { isDrawnRole } from '#files/items/item-source'
import { OPENED_SIDES, type ScreenCopySide } from '#shared/picture-widths'
import type { Jobs } from '../../platform/queue'
import type { WorkContext } from '../../platform/work-context'
import { ScreenCopies, type VersionFile } from './screen-copies'

/** Makes what pages will open of an item, before anybody waits for it: of large maps the first look at a mock-up takes minutes else. */
export async function copyForScreensJob(context: WorkContext, { inputKey }: Jobs['copy-for-screens']): Promise<void> {
  const { db, intakePool } = context
  const copies = new ScreenCopies({ ...context, compute: intakePool })
  const { rows } = await db.execute<VersionFile & Record<string, unknown>>(sql`
    select distinct on (f.hash) f.path, f.role, f.hash, s.media_type as "mediaType"
    from versions v join version_files f on f.version_id = v.id join files s on s.hash = f.hash
    where v.input_key = ${inputKey} order by f.hash`)
  for (const file of rows)
    for (const longerPx of sidesOf(file))
      try {
        await copies.get(file, longerPx)
      } catch (error) {
        // Whoever opens it is told.
        if (!(error instanceof FileError)) throw error
      }
}

const sidesOf = ({ role }: VersionFile): readonly ScreenCopySide[] =>
  role === 'environment' || role === 'model' ? OPENED_SIDES[role] : isDrawnRole(role) ? OPENED_SIDES.map : []
