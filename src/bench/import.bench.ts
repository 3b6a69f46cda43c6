import { createReadStream, createWriteStream } from 'node:fs'
import { mkdtemp, rm, stat } from 'node:fs/promises'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { ZipArchive } from 'archiver'
import { sql } from 'drizzle-orm'
import { collectPaths } from '#files/reading/collect-paths'
import { importDelivery } from '../cli/import'
import { type Benchmark, round } from './benchmark'
import { createInstallation, LEAD, Visitor } from './installation'
import { makeDelivery, runIn } from './intake.bench'

const LOOK_EVERY_MS = 250

/** The folder as one zip, stored and not squeezed: pictures are compressed already. */
async function zipFolder(folder: string, target: string): Promise<void> {
  const zip = new ZipArchive({ store: true })
  const output = createWriteStream(target)
  const ended = new Promise<void>((resolve, reject) => output.on('close', resolve).on('error', reject))
  zip.pipe(output)
  for (const { diskPath, path } of await collectPaths(folder)) zip.append(createReadStream(diskPath), { name: path })
  await zip.finalize()
  await ended
}

/**
 * The thousand items of the intake benchmark, dropped as one zip on a running server and worker, until the last row is ready: upload,
 * storage, database, queue and all. Against decoding its pictures on as many threads.
 */
export const importBenchmark: Benchmark = {
  name: 'import-vs-decode',
  run: async () => {
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-import-'))
    const installation = await createInstallation()
    try {
      await makeDelivery(folder)
      const root = join(folder, 'delivery')
      const archive = join(folder, 'delivery.zip')
      await zipFolder(root, archive)
      const threads = cpus().length
      const theirs = await runIn('decode', root, threads)
      const inner = await runIn('intake', root, threads)
      await installation.start('server')
      await installation.start('worker')
      const started = performance.now()
      const secondsSince = () => (performance.now() - started) / 1000
      const { batchId } = await importDelivery(
        { path: archive, library: 'house', server: installation.base, ...LEAD, wait: false },
        () => {},
      )
      const sent = secondsSince()
      let sorted = 0
      for (;;) {
        const { rows } = await installation.db.execute<{ state: string; rows: number; open: number }>(sql`
          select b.state, count(r.id)::int as rows, (count(*) filter (where r.state = 'measuring'))::int as open
          from batches b left join batch_items r on r.batch_id = b.id where b.id = ${batchId} group by b.state`)
        if (rows[0].state === 'open') {
          sorted ||= secondsSince()
          if (rows[0].open === 0) break
        }
        await new Promise(resolve => setTimeout(resolve, LOOK_EVERY_MS))
      }
      const ours = secondsSince()
      const { rows } = await installation.db.execute<{ count: number }>(
        sql`select count(*)::int as count from batch_items where state = 'ready'`,
      )
      const visitor = new Visitor(installation.base, 1)
      await visitor.signIn()
      const asked = performance.now()
      await visitor.ask(`/api/batches/${batchId}`)
      const opened = performance.now() - asked
      visitor.close()
      return [
        {
          name: 'import-vs-decode',
          ratio: round(theirs.seconds / ours),
          ours: round(ours),
          baseline: round(theirs.seconds),
          unit: 's',
          note: `${rows[0].count} items ready of one zip of ${round((await stat(archive)).size / 1e9)} GB on a running server and worker: sent after ${round(sent)} s, sorted after ${round(sorted)} s, ${round((60 * rows[0].count) / (ours - sorted))} measured a minute; the same without server, queue, database and storage ${round(inner.seconds)} s; the worklist then opens in ${round(opened)} ms; against decoding the ${theirs.count} pictures alone`,
        },
      ]
    } finally {
      await installation.close()
      await rm(folder, { recursive: true, force: true })
    }
  },
}
