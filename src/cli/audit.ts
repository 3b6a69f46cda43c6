import { createWriteStream } from 'node:fs'
import { basename } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { z } from 'zod'
import { FileError } from '#core/findings/failure'
import { type SceneAuditView, sceneAuditSchema } from '#shared/contracts/audits.contract'
import { projectSummarySchema } from '#shared/contracts/projects.contract'
import { type Client, type Credentials, ImportError, signIn } from './client'
import { collectScene } from './collect-scene'
import { sendAll } from './import'
import type { Output } from './output'

export interface AuditWish extends Credentials {
  path: string
  /** Code of a project; without one the whole library is asked. */
  project?: string
  /** Where the corrected scene goes. */
  correct?: string
}

const ASK_EVERY_MS = 700
const HOUSE = 'house'

/** Exit status: 0 everything is as pinned, 1 something is not, or it could not be done. */
export async function runAudit(wish: AuditWish, json: boolean, { print, report }: Output): Promise<number> {
  try {
    const client = await signIn(wish)
    const files = await collectScene(wish.path)
    const project = wish.project === undefined ? null : await findProject(client, wish.project)
    const { id: batchId } = created.parse(
      await client.ask('POST', '/api/batches', {
        library: project?.library ?? HOUSE,
        title: basename(wish.path),
        purpose: 'scene',
      }),
    )
    await sendAll(client, batchId, files, report)
    const begun = created.parse(await client.ask('POST', '/api/audits', { batchId, projectId: project?.id ?? null }))
    let audit = await waitFor(client, begun.id, report)
    if (wish.correct !== undefined) audit = await correct(client, audit, wish.correct, report)
    print(json ? `${JSON.stringify(toOutput(audit))}\n` : toText(audit, `${client.server}/audits/${audit.id}`))
    const things = [...audit.materials, ...audit.models, ...audit.lights]
    return things.every(t => t.class === 'pinned') ? 0 : 1
  } catch (error) {
    if (!(error instanceof ImportError || error instanceof FileError)) throw error
    report(`muscovite: ${error.message}`)
    return 1
  }
}

const created = z.object({ id: z.number() })

async function findProject({ ask, libraries }: Client, code: string): Promise<{ id: number; library: string }> {
  const projects = z.array(projectSummarySchema).parse(await ask('GET', '/api/projects'))
  const found = projects.find(p => p.code.toLowerCase() === code.toLowerCase())
  if (!found) throw new ImportError(`There is no project ${code}. There are: ${projects.map(p => p.code).join(', ')}.`)
  return { id: found.id, library: libraries.find(l => l.title === found.library)?.key ?? HOUSE }
}

async function waitFor(client: Client, id: number, report: (line: string) => void): Promise<SceneAuditView> {
  let said = ''
  for (;;) {
    const audit = sceneAuditSchema.parse(await client.ask('GET', `/api/audits/${id}`))
    if (audit.state === 'failed') throw new ImportError(audit.message ?? 'The scene could not be audited.')
    if (audit.state === 'ready') return audit
    const line = `${audit.step || 'In line'} ${Math.round(audit.share * 100)} %`
    if (line !== said) report(line)
    said = line
    await new Promise(resolve => setTimeout(resolve, ASK_EVERY_MS))
  }
}

/** Everything that can be is put back; gives the audit of what was written. */
async function correct(
  client: Client,
  audit: SceneAuditView,
  out: string,
  report: (line: string) => void,
): Promise<SceneAuditView> {
  const materials = audit.materials.filter(isPutBack).map(m => m.index)
  const [models, lights] = [audit.models, audit.lights].map(list => list.filter(isPutBack).map(t => t.node))
  if (materials.length + models.length + lights.length === 0)
    throw new ImportError('There is nothing in it that could be put back; no scene was written.')
  await client.ask('POST', `/api/audits/${audit.id}/correction`, { materials, models, lights })
  for (;;) {
    const { correction } = sceneAuditSchema.parse(await client.ask('GET', `/api/audits/${audit.id}`))
    if (correction?.state === 'failed') throw new ImportError(correction.message ?? 'The scene could not be written.')
    if (correction?.state === 'ready' && correction.url && correction.auditId !== null) {
      for (const { name, why } of correction.refused) report(`${name} was left as it is: ${why}`)
      const response = await fetch(client.server + correction.url, { headers: client.headers })
      if (!response.ok || !response.body) throw new ImportError(`The server answered with ${response.status}.`)
      await pipeline(Readable.fromWeb(response.body as never), createWriteStream(out))
      report(`${correction.done} put back, written to ${out}`)
      return waitFor(client, correction.auditId, report)
    }
    await new Promise(resolve => setTimeout(resolve, ASK_EVERY_MS))
  }
}

/** Of editable copies what is different is meant. */
const isPutBack = ({ isCorrectable, isCopy }: Thing): boolean => isCorrectable && !isCopy

type Thing = SceneAuditView['materials' | 'models' | 'lights'][number]

const sayThing = ({ name, class: c, code, version, evidence, changes, remarks, nearest }: Thing) => ({
  name,
  class: c,
  code,
  version,
  evidence,
  changes,
  remarks,
  nearest: nearest.map(n => ({ code: n.code, distance: n.distance })),
})

const toOutput = ({ materials, models, lights, shares }: SceneAuditView) => ({
  materials: materials.map(m => ({ ...sayThing(m), flipMean: m.flipMean, deltaE00: m.deltaE00, areaM2: m.areaM2 })),
  models: models.map(m => ({ ...sayThing(m), uses: m.uses })),
  lights: lights.map(sayThing),
  shares,
})

function toText(audit: SceneAuditView, address: string): string {
  const lines: string[] = []
  for (const [title, list] of [
    ['Materials', audit.materials],
    ['Models', audit.models],
    ['Lights', audit.lights],
  ] as const) {
    lines.push(`${title}: ${list.length}`)
    for (const t of list) {
      const item = t.code === null ? '' : `  ${t.code} version ${t.version}`
      lines.push(`  ${t.class.padEnd(9)} ${t.name}${item}`)
      for (const c of t.changes) lines.push(`              ${c.what}: ${c.from} → ${c.to}`)
      for (const remark of t.remarks) lines.push(`              ${remark}`)
      if (t.nearest.length > 0) lines.push(`              nearest: ${t.nearest.map(n => n.code).join(', ')}`)
    }
  }
  const { pinned = 0, other = 0 } = audit.shares?.byArea ?? {}
  lines.push(`${Math.round((pinned + other) * 100)} % of the surface is on standard. ${address}`)
  return `${lines.join('\n')}\n`
}
