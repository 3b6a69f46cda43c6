import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import pino from 'pino'
import { createApp } from './app'
import { LibraryFinder } from './find/library-finder'
import { prepareCategories } from './house/prepare-categories'
import { ComputePool } from './platform/compute/compute-pool'
import { migrateDatabase, openDatabase } from './platform/database'
import { createFetchOutside } from './platform/fetch-outside'
import { openBoss, toJobQueue } from './platform/queue'
import { readSettings } from './platform/settings'
import { openStorage } from './platform/storage/disk-storage'
import { RunningHashes } from './platform/storage/running-hashes'
import { offerFoundation } from './standard/found-studio'

const root = fileURLToPath(new URL('../..', import.meta.url))
const settings = readSettings()
const log = pino({ name: 'server', level: settings.logLevel })
const { db, pool, close } = openDatabase(settings.databaseUrl)
await migrateDatabase(db, root)
await prepareCategories(db)
const storage = openStorage(settings.storageUrl)
await storage.check()
const boss = await openBoss(settings.databaseUrl, error => log.warn({ error: error.message }, 'queue'))
const compute = new ComputePool(1, new URL('./compute.worker.js', import.meta.url))
const hashes = new RunningHashes(new URL('./running-hashes.worker.js', import.meta.url))
const finder = new LibraryFinder(db)
// Before anybody asks; who searches sooner waits for it, and everything else is answered meanwhile.
const searchable = finder.current().catch(error => log.warn({ error: String(error) }, 'search'))
const { app, stop } = await createApp({
  context: { db, pool, storage, queue: toJobQueue(boss), fetchOutside: createFetchOutside(settings.feedHosts), finder },
  compute,
  hashes,
  databaseUrl: settings.databaseUrl,
  settings,
  sessionSecret: settings.sessionSecret ?? keepSecret(settings.dataFolder),
  webFolder: join(root, 'dist/web'),
  log,
})
const server = app.listen(settings.port, settings.host)
server.on('error', (error: NodeJS.ErrnoException) => {
  const sentence =
    error.code === 'EADDRINUSE'
      ? `Port ${settings.port} is in use. Stop what uses it, or start with PORT=${settings.port + 1} npm start.`
      : `The server cannot listen on ${settings.host}:${settings.port} (${error.code}).`
  process.stderr.write(`${sentence}\n`)
  process.exit(1)
})
server.on('listening', async () => {
  await searchable
  process.send?.('ready')
  const path = await offerFoundation(db)
  // On the console alone: whoever started it founds the studio.
  if (path && settings.demo === 'off')
    console.log(`Nobody works here yet. Found your studio at http://127.0.0.1:${settings.port}${path}`)
})

/** Made once, readable by the owner only, so that sessions outlast a restart. */
function keepSecret(folder: string): string {
  const path = join(folder, 'session-secret')
  if (!existsSync(path)) {
    mkdirSync(folder, { recursive: true })
    writeFileSync(path, randomBytes(32).toString('hex'), { mode: 0o600 })
  }
  return readFileSync(path, 'utf8')
}

let stopping = false
const shutDown = async () => {
  if (stopping) return
  stopping = true
  server.close()
  await stop().catch(() => {})
  await Promise.all([compute.close(), hashes.close()])
  server.closeAllConnections()
  await Promise.race([
    boss.stop({ graceful: false, wait: false, close: true }),
    new Promise(resolve => setTimeout(resolve, 1500)),
  ])
  await close().catch(() => {})
  process.exit(0)
}
process.on('SIGTERM', shutDown)
process.on('SIGINT', shutDown)
process.on('disconnect', shutDown)
