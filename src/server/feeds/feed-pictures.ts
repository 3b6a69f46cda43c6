import { LRUCache } from 'lru-cache'
import sharp from 'sharp'
import type { FetchOutside } from '../platform/fetch-outside'
import { ProblemError } from '../platform/problem'
import { readLimited } from './feed-client'

const MAX_BYTES = 8 * 1024 ** 2
const MAX_PIXELS = 40e6
const PATIENCE_MS = 10_000
/** As offers show them, on a 2x screen. */
const SIZE = { width: 320, height: 240 }
const KEPT = 1000
const KEPT_MS = 24 * 3600 * 1000

/** Suppliers' own pictures, fetched when somebody looks, made small and written anew: nothing of theirs reaches a browser as it came. */
export class FeedPictures {
  private readonly kept = new LRUCache<string, Promise<Buffer>>({ max: KEPT, ttl: KEPT_MS })

  constructor(private readonly fetchOutside: FetchOutside) {}

  /** WebP. @throws ProblemError where the supplier does not give a picture */
  get(address: string): Promise<Buffer> {
    const known = this.kept.get(address)
    if (known) return known
    const made = this.read(address).catch(() => {
      this.kept.delete(address)
      throw new ProblemError('notFound', 'The supplier does not show this picture now.')
    })
    this.kept.set(address, made)
    return made
  }

  private async read(address: string): Promise<Buffer> {
    const response = await this.fetchOutside(address, { signal: AbortSignal.timeout(PATIENCE_MS) })
    if (!response.ok) throw new Error(`answered with ${response.status}`)
    return sharp(await readLimited(response, MAX_BYTES), { limitInputPixels: MAX_PIXELS })
      .rotate()
      .resize({ ...SIZE, fit: 'cover' })
      .flatten({ background: '#808080' })
      .toColourspace('srgb')
      .webp({ quality: 82 })
      .toBuffer()
  }
}
