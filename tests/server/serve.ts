import { mkdir, writeFile } from 'node:fs/promises'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import pino from 'pino'
import { createApp } from '../../src/server/app'
import { ComputePool } from '../../src/server/platform/compute/compute-pool'
import { readSettings } from '../../src/server/platform/settings'
import { RunningHashes } from '../../src/server/platform/storage/running-hashes'
import { ROOT, type TestWorld } from '../test-database'

/** The world behind its real HTTP interface, on a free port, with an empty page in place of the built ones. */
export async function serve(
  world: TestWorld,
  env: Record<string, string> = {},
): Promise<{ base: string; compute: ComputePool; close: () => Promise<void> }> {
  const settings = readSettings({ MUSCOVITE_DATABASE_URL: world.url, MUSCOVITE_DATA: world.folder, ...env })
  const web = join(world.folder, 'web')
  await mkdir(join(web, 'assets'), { recursive: true })
  await writeFile(join(web, 'index.html'), '<title>Muscovite</title>')
  const compute = new ComputePool(1, new URL(`file://${join(ROOT, 'dist/node/compute.worker.js')}`))
  const hashes = new RunningHashes(new URL(`file://${join(ROOT, 'dist/node/running-hashes.worker.js')}`))
  const { app, stop } = await createApp({
    context: world.context,
    compute,
    hashes,
    databaseUrl: world.url,
    settings,
    sessionSecret: 'a secret for tests only',
    webFolder: web,
    log: pino({ level: 'silent' }),
  })
  const server = app.listen(0, '127.0.0.1')
  await new Promise(resolve => server.once('listening', resolve))
  return {
    compute,
    base: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: async () => {
      await stop()
      await Promise.all([compute.close(), hashes.close()])
      server.closeAllConnections()
      server.close()
    },
  }
}
