import { createHash } from 'node:crypto'
import { createReadStream, existsSync } from 'node:fs'
import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import express, { type Express } from 'express'
import { z } from 'zod'
import type { Offer, OfferedItem } from '#shared/contracts/offer.contract'
import type { OfferedVersion } from './offer-items'
import { takePicture } from './take-picture'

/** How the supplier's answers are spoilt on request, for those who have to cope with it. */
const controlSchema = z.object({
  /** Waiting before every answer. */
  slowMs: z.number().int().min(0).max(60_000).default(0),
  /** error: 503; cut: half the bytes, then the line breaks; corrupt: all of the bytes, one of them wrong; hang: nothing at all. */
  failure: z.enum(['none', 'error', 'cut', 'corrupt', 'hang']).default('none'),
  /** How many answers are spoilt before all is well again. */
  times: z.number().int().min(0).default(1_000_000),
  /** Part of the addresses concerned; every one without it. */
  matching: z.string().default(''),
  /** Things that are withdrawn from now on, by their ids. */
  withdrawn: z.array(z.string()).default([]),
  /** The newest version that is shown; all of them without it. */
  upToVersion: z.number().int().min(1).default(1_000_000),
})
type Control = z.infer<typeof controlSchema>

export const SUPPLIER = 'Oddmere Surfaces'
const LICENCE = 'Studio licence, all projects'

interface Made extends OfferedItem {
  folder: string
}

/**
 * A small simulated supplier: an offer, downloads that resume, checksums, versions, things taken back, and answers that are late or
 * broken when asked for. Its files are made once into `folder`.
 */
export function createFeedApp(folder: string, offered: readonly OfferedVersion[]): { app: Express; ready: Promise<void> } {
  let control: Control = controlSchema.parse({})
  let made: Made[] | null = null
  const ready = makeAll(folder, offered).then(all => {
    made = all
  })
  const app = express()
  app.disable('x-powered-by')
  app.post('/control', express.json(), (req, res) => {
    control = controlSchema.parse(req.body ?? {})
    res.json(control)
  })
  app.use(async (req, res, next) => {
    if (control.slowMs > 0) await new Promise(resolve => setTimeout(resolve, control.slowMs))
    const isSpoilt = control.failure !== 'none' && control.times > 0 && req.path.includes(control.matching)
    if (!isSpoilt) return next()
    control.times--
    if (control.failure === 'hang') return
    if (control.failure === 'error') {
      res.status(503).json({ message: 'The store is being put in order.' })
      return
    }
    res.locals.failure = control.failure
    next()
  })
  app.get('/offer.json', (_req, res) => {
    if (!made) {
      res.status(503).set('Retry-After', '5').json({ message: 'The offer is being prepared.' })
      return
    }
    const newest = new Map<string, Made>()
    for (const item of made) if (item.version <= control.upToVersion) newest.set(item.id, item)
    const offer: Offer = {
      supplier: SUPPLIER,
      licence: LICENCE,
      items: [...newest.values()].map(({ folder: _folder, ...item }) => ({
        ...item,
        isWithdrawn: item.isWithdrawn || control.withdrawn.includes(item.id),
      })),
    }
    res.json(offer)
  })
  app.get('/files/:id/:version/*path', async (req, res) => {
    const { id, version, path } = req.params as unknown as { id: string; version: string; path: string[] }
    const item = made?.find(m => m.id === id && m.version === Number(version))
    const file = item?.files.find(f => f.path === path.join('/'))
    if (!item || !file || item.isWithdrawn || control.withdrawn.includes(id)) {
      res.status(404).json({ message: 'This is not on offer.' })
      return
    }
    const full = join(item.folder, file.path)
    if (res.locals.failure === 'cut') {
      res.set('Content-Length', String(file.size)).status(200)
      createReadStream(full, { end: Math.max(0, Math.floor(file.size / 2) - 1) })
        .on('end', () => res.destroy())
        .pipe(res, { end: false })
      return
    }
    if (res.locals.failure === 'corrupt') {
      const bytes = await readFile(full)
      bytes[Math.floor(bytes.length / 2)] ^= 255
      res.send(bytes)
      return
    }
    // The data folder may begin with a dot.
    res.sendFile(full, { acceptRanges: true, dotfiles: 'allow' })
  })
  app.get('/pictures/:id/:file', (req, res) => {
    const item = made?.find(m => m.picture === `${req.params.id}/${req.params.file}`)
    if (!item) res.status(404).json({ message: 'There is no such picture.' })
    else res.sendFile(`${item.folder}.webp`, { dotfiles: 'allow' })
  })
  return { app, ready }
}

/** Makes what is not there yet. A version's folder appears when it is whole. */
async function makeAll(folder: string, offered: readonly OfferedVersion[]): Promise<Made[]> {
  const all: Made[] = []
  for (const { make, isWithdrawn = false, widthMm = null, ...version } of offered) {
    const home = join(folder, version.id, String(version.version))
    const list = `${home}.json`
    const known = await readFile(list, 'utf8').catch(() => null)
    let files: OfferedItem['files']
    if (known) files = JSON.parse(known)
    else {
      const draft = `${home}.part`
      await rm(draft, { recursive: true, force: true })
      await rm(home, { recursive: true, force: true })
      await mkdir(draft, { recursive: true })
      files = []
      for (const path of await make(draft)) {
        const bytes = await readFile(join(draft, path))
        files.push({ path, size: (await stat(join(draft, path))).size, sha256: createHash('sha256').update(bytes).digest('hex') })
      }
      const paths = files.map(f => f.path)
      const shown = await takePicture(draft, paths, { kind: version.kind, widthMm })
      if (shown) await writeFile(`${home}.webp`, shown)
      await rename(draft, home)
      await writeFile(list, JSON.stringify(files))
    }
    const picture = existsSync(`${home}.webp`) ? `${version.id}/${version.version}.webp` : null
    all.push({ ...version, isWithdrawn, widthMm, picture, files, folder: home })
  }
  return all
}
