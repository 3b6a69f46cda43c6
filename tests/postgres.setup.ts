import { chmod, mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildNode } from '../scripts/build.mjs'
import { startPostgres } from '../scripts/postgres.mjs'
import { createTemplate } from './test-database'

/** A real PostgreSQL on loopback for the whole run; each test file makes its own database in it, a copy of one that is made here. */
export default async function setup() {
  // Compute threads and the worker run as they are built.
  await buildNode()
  const folder = await mkdtemp(join(tmpdir(), 'muscovite-test-'))
  await chmod(folder, 0o755)
  const postgres = await startPostgres(folder)
  await createTemplate(postgres.url)
  process.env.MUSCOVITE_TEST_DATABASE_URL = postgres.url
  return async () => {
    await postgres.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
