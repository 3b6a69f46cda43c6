import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import express, { type Express } from 'express'
import helmet from 'helmet'
import type { Logger } from 'pino'
import { speakOurWords } from '#shared/schema-words'
import { mountAuditRoutes } from './audits/audit.routes'
import { mountBulkRoutes } from './bulk/bulk.routes'
import { mountDecisionRoutes } from './decisions/decision.routes'
import { mountFeedRoutes } from './feeds/feed.routes'
import { mountLive } from './http/live'
import { describeInterface } from './http/openapi'
import { handleErrors, sendProblem } from './http/problems'
import { createSessions } from './http/session'
import { mountIntakeRoutes } from './intake/intake.routes'
import { mountUploads } from './intake/uploads'
import { mountItemRoutes } from './library/item.routes'
import { mountPictureRoutes } from './library/pictures/picture.routes'
import { mountMockUpRoutes } from './mock-ups/mock-up.routes'
import { mountOutsideSignIn } from './people/outside-sign-in.routes'
import { mountPeopleRoutes } from './people/people.routes'
import { mountSessionRoutes } from './people/session.routes'
import { mountPersonalRoutes } from './personal/personal.routes'
import type { ComputePool } from './platform/compute/compute-pool'
import type { Context } from './platform/context'
import type { Settings } from './platform/settings'
import type { RunningHashes } from './platform/storage/running-hashes'
import { mountPreviewRoutes } from './previews/preview.routes'
import { mountRigRoutes } from './previews/rigs/rig.routes'
import { mountProjectRoutes } from './projects/project.routes'
import { mountScheduleRoutes } from './schedules/schedule.routes'
import { mountStandardRoutes } from './standard/standard.routes'
import { mountUpkeepRoutes } from './upkeep/upkeep.routes'

/** A desk on which everything lies tells of 50,000 items. */
const LARGEST_BODY = '4mb'

export interface AppParts {
  context: Context
  /** Threads for what takes a request longer than an answer may hold up others. */
  compute: ComputePool
  hashes: RunningHashes
  databaseUrl: string
  settings: Settings
  sessionSecret: string
  webFolder: string
  log: Logger
}

/** The whole HTTP side; `stop` ends what it keeps open. */
export async function createApp({
  context,
  compute,
  hashes,
  databaseUrl,
  settings,
  sessionSecret,
  webFolder,
  log,
}: AppParts): Promise<{ app: Express; stop: () => Promise<void> }> {
  speakOurWords()
  const app = express()
  app.disable('x-powered-by')
  app.set('trust proxy', 'loopback')
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          connectSrc: ["'self'", 'blob:', 'data:'],
          workerSrc: ["'self'", 'blob:'],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  )
  app.get('/api/health', async (_req, res) => {
    const checks = {
      database: await passes(context.db.execute(sql`select 1`)),
      storage: await passes(context.storage.check()),
      queue: await passes(context.db.execute(sql`select count(*) from pgboss.queue`)),
    }
    const ok = Object.values(checks).every(Boolean)
    res.status(ok ? 200 : 503).json({ status: ok ? 'ok' : 'failing', checks })
  })
  const description = describeInterface()
  app.get('/api/openapi.json', (_req, res) => {
    res.json(description)
  })
  app.use('/api', createSessions(context.pool, sessionSecret))
  const uploads = await mountUploads(app, context, { settings, hashes, databaseUrl, log })
  const stopLive = await mountLive(app, context, databaseUrl)
  app.use('/api', express.json({ limit: LARGEST_BODY }))
  mountSessionRoutes(app, context, settings)
  mountOutsideSignIn(app, context, settings, log)
  mountPeopleRoutes(app, context, settings)
  mountItemRoutes(app, context, compute)
  mountPreviewRoutes(app, context, compute)
  mountIntakeRoutes(app, context, uploads)
  mountFeedRoutes(app, context)
  mountStandardRoutes(app, context, settings)
  mountPersonalRoutes(app, context)
  mountProjectRoutes(app, context, compute)
  mountAuditRoutes(app, context, compute)
  mountDecisionRoutes(app, context, compute)
  mountMockUpRoutes(app, context, compute)
  mountScheduleRoutes(app, context, compute)
  mountBulkRoutes(app, context)
  mountRigRoutes(app, context)
  mountPictureRoutes(app, context, settings, compute)
  mountUpkeepRoutes(app, context)
  app.use('/api', (_req, res) => sendProblem(res, { code: 'notFound', message: 'There is nothing at this address.' }))
  if (existsSync(webFolder)) {
    app.use('/assets', express.static(join(webFolder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }))
    app.use(express.static(webFolder, { index: false, maxAge: 0 }))
    // Every other address is a view of the one page.
    app.get('/{*view}', (_req, res) => res.sendFile(join(webFolder, 'index.html'), { cacheControl: false, dotfiles: 'allow' }))
  }
  app.use(handleErrors(log))
  return {
    app,
    stop: async () => {
      await stopLive()
      await uploads.close()
    },
  }
}

const passes = (check: Promise<unknown>): Promise<boolean> =>
  check.then(
    () => true,
    () => false,
  )
