import { createWriteStream } from 'node:fs'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { FileError } from '#core/findings/failure'
import { listStamped } from '#files/audits/list-stamped'
import { completeHandOver } from '#files/exports/complete-hand-over'
import { type Verified, verifyHandOver } from '#files/exports/verify-hand-over'
import { problemSchema } from '#shared/contracts/failure.contract'
import { isOlder, type Standing, standingListSchema } from '#shared/contracts/hand-over.contract'
import { type Client, type Credentials, ImportError, signIn } from './client'
import { collectScene } from './collect-scene'
import { type Output, sayFailures } from './output'

/** Items that have a newer approved version than was handed over, by their codes. */
type Older = Record<string, { handedOver: number; approved: number }>

/**
 * Says what of a hand-over is missing, altered or, where a server is asked, older than what is approved; the exit status: 0 for whole.
 * @param credentials null asks no server
 */
export async function runVerify(path: string, credentials: Credentials | null, json: boolean, output: Output): Promise<number> {
  return sayFailures(output, async () => {
    const verified = await verifyHandOver(path)
    const older = credentials ? await listOlder(await signIn(credentials), verified) : {}
    const { manifest, intact, missing, altered, changedCopies, unnamed } = verified
    if (json)
      output.print(
        `${JSON.stringify({ project: manifest.project?.code ?? null, intact, missing, altered, changedCopies, unnamed, older })}\n`,
      )
    else {
      const { project, items, exportedAt } = manifest
      const what = project ? `${project.code} ${project.title}` : items.map(item => `${item.code} ${item.name}`).join(', ')
      output.print(`${what}, handed over ${exportedAt.slice(0, 10)}\n`)
      output.print(`${intact} files are there as they were handed over.\n`)
      for (const { code, path: file } of missing) output.print(`missing  ${code}  ${file}\n`)
      for (const { code, path: file } of altered) output.print(`altered  ${code}  ${file}\n`)
      for (const { code, path: file } of changedCopies) output.print(`changed  ${code}  ${file}, of an editable copy\n`)
      for (const [code, v] of Object.entries(older))
        output.print(`older    ${code}  version ${v.handedOver}, approved is ${v.approved}\n`)
      if (unnamed.length > 0) output.print(`${unnamed.length} more files are not of the hand-over.\n`)
    }
    return missing.length + altered.length > 0 ? 1 : 0
  })
}

async function listOlder(client: Client, { manifest }: Verified): Promise<Older> {
  const items = manifest.items.map(({ code, version }) => ({ code, version }))
  const standing = (await askStanding(client, items)).filter(isOlder)
  return Object.fromEntries(standing.map(s => [s.code, { handedOver: s.version, approved: s.approved! }]))
}

/**
 * Says what files a scene names that are not there and, where a server is asked, which of the items that it is stamped with are older than
 * what is approved or withdrawn; the exit status: 0 for whole.
 */
export async function runVerifyScene(
  path: string,
  credentials: Credentials | null,
  json: boolean,
  output: Output,
): Promise<number> {
  return sayFailures(output, async () => {
    const { stamps, missing } = await listStamped(await collectScene(path))
    const standing = credentials && stamps.length > 0 ? await askStanding(await signIn(credentials), stamps) : []
    const older = standing.filter(isOlder)
    const withdrawn = standing.filter(s => s.isWithdrawn)
    if (json) output.print(`${JSON.stringify({ stamps, missing, older, withdrawn: withdrawn.map(s => s.code) })}\n`)
    else {
      output.print(`${stamps.length} versions of items are in it by their stamps.\n`)
      for (const file of missing) output.print(`missing    ${file}\n`)
      for (const s of older) output.print(`older      ${s.code}  version ${s.version}, approved is ${s.approved}\n`)
      for (const s of withdrawn) output.print(`withdrawn  ${s.code}  version ${s.version}\n`)
    }
    return missing.length > 0 ? 1 : 0
  })
}

const askStanding = async (client: Client, items: readonly { code: string; version: number }[]): Promise<Standing[]> =>
  standingListSchema.parse(await client.ask('POST', '/api/hand-overs/standing', { items }))

/**
 * Brings what is missing or altered in a folder from the server that handed it over, and nothing that is there already; the exit status.
 * Broken off, it goes on with what is missing then.
 */
export async function runFetch(folder: string, credentials: Credentials, json: boolean, output: Output): Promise<number> {
  return sayFailures(output, async () => {
    const before = await verifyHandOver(folder)
    const wanted = before.missing.length + before.altered.length
    if (wanted === 0) {
      output.print(json ? `${JSON.stringify({ brought: 0, keptAside: [], missing: [] })}\n` : 'Everything is there.\n')
      return 0
    }
    const { source } = before.manifest
    if (!source) throw new ImportError('The manifest does not say where the whole of it can be had.')
    const client = await signIn(credentials)
    const address = `/api/projects/${source.projectId}/exports/${source.exportId}/files/`
    const { brought, keptAside, refused, after } = await completeHandOver(folder, before, (path, to) =>
      download(client, address + path.split('/').map(encodeURIComponent).join('/'), to),
    )
    const left = [...after.missing, ...after.altered]
    if (json) output.print(`${JSON.stringify({ brought, keptAside, missing: left })}\n`)
    else {
      output.print(`${brought} of ${wanted} files were brought.\n`)
      for (const path of keptAside) output.print(`What had been altered is kept as ${path}\n`)
      for (const message of refused) output.print(`${message}\n`)
      for (const { code, path } of left) output.print(`still missing  ${code}  ${path}\n`)
    }
    return left.length > 0 ? 1 : 0
  })
}

/** @throws FileError where the server has no such file, ImportError where there is no server or nothing of the hand-over is left */
async function download(client: Client, address: string, to: string): Promise<void> {
  const response = await fetch(client.server + address, { headers: client.headers }).catch(() => {
    throw new ImportError(`No Muscovite answers at ${client.server}. Start it, or name another address with --server.`)
  })
  if (!response.ok || !response.body) {
    const said = problemSchema.safeParse(await response.json().catch(() => null))
    const message = said.success ? said.data.message : `The server answered with ${response.status}.`
    if (said.success && said.data.code === 'notFound') throw new FileError('notFound', message)
    throw new ImportError(message)
  }
  await pipeline(Readable.fromWeb(response.body as never), createWriteStream(to))
}
