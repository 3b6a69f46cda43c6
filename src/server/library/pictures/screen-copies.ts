import { and, asc, eq, gt, ne } from 'drizzle-orm'
import { isMapRole } from '#files/items/item-source'
import type { ComputePool } from '../../platform/compute/compute-pool'
import type { Context } from '../../platform/context'
import { ProblemError } from '../../platform/problem'
import { storeBytes, toSourceFiles } from '../../platform/storage/stored-files'
import { files, screenCopies } from '../../tables/library.table'

/** A file of a version, as it is kept. */
export interface VersionFile extends Copied {
  path: string
  role: string
}

/** What of a version is drawn, or holds pictures; the rest has no smaller form. */
const hasCopy = ({ role }: VersionFile): boolean => role === 'environment' || role === 'model' || isMapRole(role)

interface Copied {
  hash: string
  mediaType: string
}

/** Copies of files for the screen, each made when it is first asked for, and kept. */
export class ScreenCopies {
  /** Those that are being made: several pages and threads ask for the same ones at once. */
  private readonly underWay = new Map<string, Promise<Copied>>()

  constructor(private readonly context: Pick<Context, 'db' | 'storage'> & { compute: ComputePool }) {}

  /** @throws ProblemError for a file that has none; FileError for one that does not decode */
  async get(file: VersionFile, longerPx: number): Promise<Copied> {
    if (!hasCopy(file)) throw new ProblemError('badRequest', 'Only maps, surroundings and models have a copy for the screen.')
    return (await this.find(file.hash, longerPx)) ?? this.makeOnce(file, longerPx)
  }

  private async find(sourceHash: string, longerPx: number): Promise<Copied | undefined> {
    const [row] = await this.context.db
      .select({ hash: files.hash, mediaType: files.mediaType })
      .from(screenCopies)
      .innerJoin(files, eq(files.hash, screenCopies.hash))
      .where(and(eq(screenCopies.sourceHash, sourceHash), eq(screenCopies.longerPx, longerPx)))
    return row
  }

  /** The smallest that is large enough to be made smaller still: far sooner read than what was delivered. */
  private async findLarger(sourceHash: string, longerPx: number): Promise<Copied | undefined> {
    const [row] = await this.context.db
      .select({ hash: files.hash, mediaType: files.mediaType })
      .from(screenCopies)
      .innerJoin(files, eq(files.hash, screenCopies.hash))
      .where(and(eq(screenCopies.sourceHash, sourceHash), ne(screenCopies.hash, sourceHash), gt(screenCopies.longerPx, longerPx)))
      .orderBy(asc(screenCopies.longerPx))
      .limit(1)
    return row
  }

  private makeOnce(file: VersionFile, longerPx: number): Promise<Copied> {
    const key = `${file.hash} ${longerPx}`
    const before = this.underWay.get(key)
    if (before) return before
    const made = this.make(file, longerPx).finally(() => this.underWay.delete(key))
    this.underWay.set(key, made)
    return made
  }

  private async make({ path, role, hash, mediaType }: VersionFile, longerPx: number): Promise<Copied> {
    const { db, storage, compute } = this.context
    const from = (await this.findLarger(hash, longerPx)) ?? { hash, mediaType }
    const [file] = await toSourceFiles(db, storage, [{ path, hash: from.hash }])
    const copy = await compute.run('screenCopy', { file, role, longerPx })
    const copied = copy
      ? { hash: (await storeBytes({ db, storage }, copy.bytes, copy.mediaType)).hash, mediaType: copy.mediaType }
      : from
    await db.insert(screenCopies).values({ sourceHash: hash, longerPx, hash: copied.hash }).onConflictDoNothing()
    return copied
  }
}
