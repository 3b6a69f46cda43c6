import { type ChildProcess, fork } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtemp, rm } from 'node:fs/promises'
import { Agent, request } from 'node:http'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import pg from 'pg'
import { prepareCategories } from '../server/house/prepare-categories'
import { addPerson } from '../server/people/people'
import { type Database, migrateDatabase, openDatabase } from '../server/platform/database'
import { openBoss } from '../server/platform/queue'
import { libraries } from '../server/tables/people.table'

export const LEAD = { email: 'lead@studio.example', password: 'lead-password' }

/** A database of its own, and what of the application a benchmark wants running on it, as processes of their own. */
export interface Installation {
  base: string
  db: Database
  dataFolder: string
  libraryId: number
  personId: number
  start: (name: 'server' | 'worker') => Promise<ChildProcess>
  close: () => Promise<void>
}

export async function createInstallation(): Promise<Installation> {
  const admin = new pg.Client({ connectionString: process.env.MUSCOVITE_BENCH_DATABASE_URL })
  await admin.connect()
  const name = `bench_${randomUUID().replaceAll('-', '')}`
  await admin.query(`create database ${name}`)
  const databaseUrl = process.env.MUSCOVITE_BENCH_DATABASE_URL!.replace(/\/[^/]+$/, `/${name}`)
  const dataFolder = await mkdtemp(join(tmpdir(), 'muscovite-installation-'))
  const { db, close } = openDatabase(databaseUrl, 4)
  await migrateDatabase(db, process.env.MUSCOVITE_ROOT!)
  await prepareCategories(db)
  const boss = await openBoss(databaseUrl, () => {})
  await boss.stop({ graceful: false, wait: false, close: true })
  const [library] = await db.insert(libraries).values({ key: 'house', title: 'House', kind: 'house' }).returning()
  const person = await addPerson(db, { ...LEAD, name: 'Lead', role: 'lead', libraryIds: [] })
  const port = await freePort()
  const running: ChildProcess[] = []
  return {
    base: `http://127.0.0.1:${port}`,
    db,
    dataFolder,
    libraryId: library.id,
    personId: person.id,
    start: part =>
      new Promise((resolve, reject) => {
        const child = fork(fileURLToPath(new URL(`./${part}.js`, import.meta.url)), {
          env: {
            ...process.env,
            PORT: String(port),
            MUSCOVITE_DATABASE_URL: databaseUrl,
            MUSCOVITE_DATA: dataFolder,
            MUSCOVITE_LOG: 'error',
          },
          stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
        })
        running.push(child)
        child.once('message', () => resolve(child))
        child.once('exit', status => reject(new Error(`the ${part} ended with ${status}`)))
      }),
    close: async () => {
      await Promise.all(
        running.map(child => {
          if (child.exitCode !== null || child.signalCode !== null) return undefined
          const ended = new Promise(resolve => child.once('exit', resolve))
          child.kill('SIGKILL')
          return ended
        }),
      )
      await close()
      await admin.query(`drop database ${name} with (force)`)
      await admin.end()
      await rm(dataFolder, { recursive: true, force: true })
    },
  }
}

export const freePort = () =>
  new Promise<number>(resolve => {
    const probe = createServer()
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

export interface Answer {
  status: number
  cookie: string | undefined
  text: string
}

/** Asks over connections that stay open, as a browser does. */
export class Visitor {
  private readonly agent: Agent
  private cookie = ''

  constructor(
    private readonly base: string,
    connections: number,
  ) {
    this.agent = new Agent({ keepAlive: true, maxSockets: connections })
  }

  async signIn(): Promise<void> {
    const { status, cookie } = await this.ask('/api/session', 'POST', LEAD)
    if (status !== 200 || !cookie) throw new Error(`signing in: ${status}`)
    this.cookie = cookie
  }

  /** Comes in on another's session: who types in a hundred places signs in once. */
  join(other: Visitor): this {
    this.cookie = other.cookie
    return this
  }

  ask(path: string, method = 'GET', body?: unknown): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const asked = request(
        this.base + path,
        { agent: this.agent, method, headers: { Cookie: this.cookie, 'Content-Type': 'application/json' } },
        answer => {
          const chunks: Buffer[] = []
          answer.on('data', (chunk: Buffer) => chunks.push(chunk))
          answer.on('error', reject)
          answer.on('end', () =>
            resolve({
              status: answer.statusCode ?? 0,
              cookie: answer.headers['set-cookie']?.[0].split(';')[0],
              text: Buffer.concat(chunks).toString('utf8'),
            }),
          )
        },
      )
      asked.on('error', reject)
      asked.setTimeout(30_000, () => asked.destroy(new Error('no answer within 30 s')))
      asked.end(body === undefined ? undefined : JSON.stringify(body))
    })
  }

  close(): void {
    this.agent.destroy()
  }
}
