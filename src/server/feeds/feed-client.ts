import { createHash } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { rm, stat } from 'node:fs/promises'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { FileError } from '#core/findings/failure'
import { type Offer, type OfferedFile, offerSchema } from '#shared/contracts/offer.contract'
import { type FetchOutside, InsideNetworkError } from '../platform/fetch-outside'

const MAX_OFFER_BYTES = 64 * 1024 ** 2
/** Without a byte for so long the line counts as dead. */
const SILENCE_MS = 15_000
const ATTEMPTS = 4
const FIRST_DELAY_MS = 500

export interface RetryPolicy {
  silenceMs: number
  attempts: number
  firstDelayMs: number
}
const RETRY_POLICY: RetryPolicy = { silenceMs: SILENCE_MS, attempts: ATTEMPTS, firstDelayMs: FIRST_DELAY_MS }

/**
 * Reads a supplier's offer.
 * @throws FileError with what the supplier said, or did not say
 */
export async function readOffer(
  fetchOutside: FetchOutside,
  url: string,
  { silenceMs }: RetryPolicy = RETRY_POLICY,
): Promise<Offer> {
  let text: string
  try {
    const response = await fetchOutside(`${url}/offer.json`, { signal: AbortSignal.timeout(silenceMs) })
    if (!response.ok) throw new FileError('notReachable', `The supplier answered with ${response.status}; try again later.`)
    text = (await readLimited(response, MAX_OFFER_BYTES)).toString('utf8')
  } catch (error) {
    if (error instanceof FileError) throw error
    if (error instanceof InsideNetworkError) throw insideNetwork(error)
    throw new FileError('notReachable', 'The supplier does not answer; try again later.')
  }
  const parsed = offerSchema.safeParse(parseJson(text))
  if (parsed.success) return parsed.data
  const { path, message } = parsed.error.issues[0]
  throw new FileError('malformed', `The supplier's offer does not read (${path.join('.') || 'as a whole'}: ${message}).`)
}

const insideNetwork = ({ host }: InsideNetworkError): FileError =>
  new FileError(
    'notReachable',
    `${host} lies inside the studio's own network, where feeds are not read. Whoever looks after Muscovite may name it in MUSCOVITE_FEED_HOSTS.`,
  )

/** @throws FileError where it is larger */
export async function readLimited(response: Response, most: number): Promise<Buffer> {
  const chunks: Uint8Array[] = []
  let size = 0
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length
    if (size > most) throw new FileError('tooLarge', `What the supplier sends is larger than ${most / 1024 ** 2} MB.`)
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

/**
 * Fetches one file to `path`, going on where a broken line left off, and checks what arrived. A file whose sum is wrong is fetched once
 * more from the start.
 * @throws FileError when it did not arrive whole after several attempts
 */
export async function fetchOffered(
  fetchOutside: FetchOutside,
  address: string,
  file: OfferedFile,
  path: string,
  retryPolicy: RetryPolicy = RETRY_POLICY,
): Promise<void> {
  let last = new FileError('notReachable', 'The supplier does not answer.')
  for (let attempt = 0; attempt < retryPolicy.attempts; attempt++) {
    if (attempt > 0) await new Promise(resolve => setTimeout(resolve, retryPolicy.firstDelayMs * 3 ** (attempt - 1)))
    try {
      await fetchRest(fetchOutside, address, file, path, retryPolicy.silenceMs)
    } catch (error) {
      if (error instanceof FileError && error.code === 'notFound') throw error
      if (error instanceof InsideNetworkError) throw insideNetwork(error)
      last = error instanceof FileError ? error : new FileError('notReachable', 'The line to the supplier broke.')
      continue
    }
    if ((await hashOf(path)) === file.sha256) return
    await rm(path, { force: true })
    last = new FileError('checksumWrong', 'What arrived is not what the supplier announced: its checksum is wrong.')
  }
  throw new FileError(last.code, `${last.message} It was tried ${retryPolicy.attempts} times; take it again later.`)
}

async function fetchRest(
  fetchOutside: FetchOutside,
  address: string,
  file: OfferedFile,
  path: string,
  silenceMs: number,
): Promise<void> {
  const have = await stat(path).then(
    info => info.size,
    () => 0,
  )
  if (have === file.size && file.size > 0) return
  const from = have < file.size ? have : 0
  const silence = new AbortController()
  let timer = setTimeout(() => silence.abort(), silenceMs)
  try {
    const response = await fetchOutside(address, {
      signal: silence.signal,
      ...(from > 0 ? { headers: { Range: `bytes=${from}-` } } : {}),
    })
    if (response.status === 404 || response.status === 410)
      throw new FileError('notFound', 'The supplier has withdrawn it meanwhile.')
    if (!response.ok) throw new FileError('notReachable', `The supplier answered with ${response.status}.`)
    const start = response.status === 206 ? from : 0
    let size = start
    const guard = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        clearTimeout(timer)
        timer = setTimeout(() => silence.abort(), silenceMs)
        size += chunk.length
        // More than announced is never what was announced.
        if (size > file.size) done(new FileError('checksumWrong', 'More arrived than the supplier announced.'))
        else done(null, chunk)
      },
    })
    const body = response.body ? Readable.fromWeb(response.body as never) : Readable.from([])
    await pipeline(body, guard, createWriteStream(path, { flags: start > 0 ? 'a' : 'w' }))
    if (size < file.size) throw new FileError('truncated', 'The line to the supplier broke.')
  } finally {
    clearTimeout(timer)
  }
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer)
  return hash.digest('hex')
}
