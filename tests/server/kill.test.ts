import { type ChildProcess, fork } from 'node:child_process'
import { chmod, mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startPostgres } from '../../scripts/postgres.mjs'
import { freePort } from '../../src/bench/installation'
import { type ImportWish, importDelivery } from '../../src/cli/import'
import { createRandom } from '../../src/core/math/random'
import { writeDelivery } from '../fixtures'
import { createTemplate, createTestWorld, ROOT, type TestWorld } from '../test-database'

/**
 * Server, worker and database as processes of their own, killed without warning again and again while a delivery is taken in and accepted. What the
 * library holds afterwards is compared with one that nobody disturbed.
 */

const KILLS = 20
/** Together, each by itself, and the database under both while they go on. */
const VICTIMS = [['server', 'worker'], ['worker'], 'database', ['server']] as const
/** Shorter than an intake takes, so that it is never over before the last kill; some lives end before anything was done. */
const LONGEST_LIFE_MS = 500

let calm: TestWorld
let killed: TestWorld
let root: string
let cluster: Cluster
beforeAll(async () => {
  calm = await createTestWorld()
  cluster = await Cluster.start()
  await createTemplate(cluster.url)
  killed = await createTestWorld(cluster.url)
  root = join(calm.folder, 'Spring')
  await writeDelivery(root)
})
afterAll(async () => {
  await calm.close()
  await killed.close()
  await cluster.stop()
})

type Part = 'server' | 'worker'

class Running {
  private readonly children = new Map<Part, ChildProcess>()
  readonly base: string
  constructor(
    private readonly world: TestWorld,
    private readonly port: number,
  ) {
    this.base = `http://127.0.0.1:${port}`
  }

  async start(parts: readonly Part[] = ['server', 'worker']): Promise<void> {
    await Promise.all(parts.map(part => this.startPart(part)))
  }

  private startPart(part: Part): Promise<void> {
    return new Promise<void>((resolve, reject) => {
      const child = fork(join(ROOT, 'dist/node', `${part}.js`), {
        env: {
          ...process.env,
          PORT: String(this.port),
          MUSCOVITE_DATABASE_URL: this.world.url,
          MUSCOVITE_DATA: this.world.folder,
          MUSCOVITE_THREADS: '1',
          MUSCOVITE_LOG: 'silent',
        },
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      })
      this.children.set(part, child)
      child.once('message', () => resolve())
      child.once('exit', status => reject(new Error(`the ${part} ended with ${status}`)))
    })
  }

  async kill(parts: readonly Part[] = ['server', 'worker']): Promise<void> {
    await Promise.all(
      parts.flatMap(part => {
        const child = this.children.get(part)
        if (!child) return []
        this.children.delete(part)
        const ended = new Promise(resolve => child.once('exit', resolve))
        child.kill('SIGKILL')
        return [ended]
      }),
    )
  }
}

/** A database of its own, to be killed. */
class Cluster {
  private running!: Awaited<ReturnType<typeof startPostgres>>

  private constructor(readonly folder: string) {}

  static async start(): Promise<Cluster> {
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-cluster-'))
    await chmod(folder, 0o755)
    const cluster = new Cluster(folder)
    cluster.running = await startPostgres(folder)
    return cluster
  }

  get url(): string {
    return this.running.url
  }

  /** All at once and without a word, and up again at the same address. */
  async killAndStart(): Promise<void> {
    const [pid] = (await readFile(join(this.folder, 'postgres', 'postmaster.pid'), 'utf8')).split('\n')
    process.kill(Number(pid), 'SIGKILL')
    await this.running.died
    const { port } = this.running
    for (let attempt = 0; ; attempt++)
      try {
        this.running = await startPostgres(this.folder, () => {}, port)
        return
      } catch (error) {
        // What is left of the killed one may hold its memory for a moment.
        if (attempt > 20) throw error
        await new Promise(resolve => setTimeout(resolve, 300))
      }
  }

  async stop(): Promise<void> {
    await this.running.stop()
    await rm(this.folder, { recursive: true, force: true })
  }
}

const wishFor = (base: string): ImportWish => ({
  path: root,
  library: 'house',
  server: base,
  email: 'lena@studio.example',
  password: 'lena-password',
  wait: false,
})

interface Cell extends Record<string, unknown> {
  name: string
}
/** All that there is of a batch and of the library, without numbers that only count attempts. */
async function describeWorld({ context }: TestWorld, batchId: number) {
  const all = async (query: ReturnType<typeof sql>) => (await untilAnswered(() => context.db.execute<Cell>(query))).rows
  return {
    files: await all(sql`select path, hash, outcome, code from batch_files where batch_id = ${batchId} order by path`),
    rows: await all(sql`
      select name, kind, category, state, facts, (select jsonb_agg(f ->> 'code' order by f ->> 'code') from jsonb_array_elements(findings) f) as findings,
        (select jsonb_agg(jsonb_build_array(f ->> 'path', f ->> 'role', f ->> 'hash') order by f ->> 'path') from jsonb_array_elements(files) f) as files
      from batch_items where batch_id = ${batchId} order by name`),
    items: await all(
      sql`select i.name, i.kind, i.category, i.state, i.code, v.number, v.width_mm from items i join versions v on v.id = i.current_version_id order by i.name`,
    ),
    versions: await all(sql`select count(*)::int as name from versions`),
    versionFiles: await all(sql`select path as name, role, hash from version_files order by path, role`),
  }
}

/** Longer than all lives and starts together take on a busy machine. */
const PATIENCE_MS = 200_000

/** Signs in, asks, and asks again as long as nobody answers. */
async function untilAnswered<T>(work: () => Promise<T>): Promise<T> {
  const until = Date.now() + PATIENCE_MS
  for (;;)
    try {
      return await work()
    } catch (error) {
      if (Date.now() > until) throw error
      await new Promise(resolve => setTimeout(resolve, 100))
    }
}

async function takeInAndFile(running: Running, world: TestWorld): Promise<number> {
  const { base } = running
  const ask = async (path: string, init: RequestInit = {}): Promise<Response> => {
    const session = await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ email: 'lena@studio.example', password: 'lena-password' }),
    })
    const cookie = session.headers.getSetCookie()[0].split(';')[0]
    const response = await fetch(base + path, { ...init, headers: { 'Content-Type': 'application/json', Cookie: cookie } })
    if (!response.ok) throw new Error(`${path}: ${response.status}`)
    return response
  }
  // A person whose import breaks off gives the command again; only the one that went through counts.
  const { batchId } = await untilAnswered(() => importDelivery(wishFor(base), () => {}))
  const measured = async () => {
    const { rows } = await untilAnswered(() =>
      world.context.db.execute<{ state: string; left: number }>(sql`
      select b.state, (select count(*)::int from batch_items i where i.batch_id = b.id and i.state = 'measuring') as left
      from batches b where b.id = ${batchId}`),
    )
    return rows[0].state === 'open' && rows[0].left === 0
  }
  await expect.poll(measured, { timeout: PATIENCE_MS, interval: 200 }).toBe(true)
  const ids = (
    await untilAnswered(() =>
      world.context.db.execute<{ id: number; kind: string }>(
        sql`select id, kind from batch_items where batch_id = ${batchId} order by id`,
      ),
    )
  ).rows
  await untilAnswered(() =>
    ask(`/api/batches/${batchId}/items`, {
      method: 'PATCH',
      body: JSON.stringify({ ids: ids.filter(i => i.kind === 'material').map(i => i.id), widthMm: 600 }),
    }),
  )
  // Accepting twice is harmless: what is accepted is refused by name.
  await untilAnswered(() =>
    ask(`/api/batches/${batchId}/accept`, { method: 'POST', body: JSON.stringify({ ids: ids.map(i => i.id) }) }),
  )
  return batchId
}

/** Every stored file that no row of the database names. */
async function findOrphans(world: TestWorld): Promise<string[]> {
  const known = new Set((await world.context.db.execute<{ hash: string }>(sql`select hash from files`)).rows.map(r => r.hash))
  const names = await readdir(join(world.folder, 'files'), { recursive: true, withFileTypes: true })
  return names.filter(n => n.isFile() && /^[0-9a-f]{64}$/.test(n.name) && !known.has(n.name)).map(n => n.name)
}

describe(`server, worker and database killed ${KILLS} times during an intake`, () => {
  it('leave the same library as without, nothing twice and nothing lost', async () => {
    const undisturbed = new Running(calm, await freePort())
    await undisturbed.start()
    const calmBatch = await takeInAndFile(undisturbed, calm)
    await undisturbed.kill()

    const disturbed = new Running(killed, await freePort())
    await disturbed.start()
    const random = createRandom(20)
    let kills = 0
    const killer = (async () => {
      while (kills < KILLS) {
        await new Promise(resolve => setTimeout(resolve, random.between(20, LONGEST_LIFE_MS)))
        const what = VICTIMS[kills % VICTIMS.length]
        kills++
        if (what === 'database') await cluster.killAndStart()
        else {
          await disturbed.kill(what)
          await untilAnswered(() => disturbed.start(what))
        }
      }
    })()
    const killedBatch = await takeInAndFile(disturbed, killed)
    // All of them struck while there was still something to lose.
    expect(kills).toBe(KILLS)
    await killer
    await disturbed.kill()

    expect(await describeWorld(killed, killedBatch)).toEqual(await describeWorld(calm, calmBatch))
    expect(await findOrphans(calm)).toEqual([])
    // Bytes that a kill left without a name get it when they are sent, unpacked or drawn again: the same bytes are the same file.
    expect(await findOrphans(killed)).toEqual([])
  }, 600_000)
})
