import { createHash } from 'node:crypto'
import type { Request, Response } from 'express'
import { LRUCache } from 'lru-cache'

/** What an answer depends on beside the database's state, such as the time of day, may be this old. */
const KEPT_MS = 60_000
const KEPT_ANSWERS = 500

interface Kept<T> {
  snapshot: string
  value: Promise<T>
}

/**
 * Values read from the database, kept for as long as nothing in it changes. A request learns the database's snapshot together with its
 * session, before it reads anything else; two requests with the same snapshot see the same rows, in whichever process anybody writes.
 * What is read for a request may be newer than its snapshot and is never older, so no answer is ever behind the state at which it was
 * asked for. Requests that come while the first still reads wait for its answer.
 * Source: PostgreSQL manual, "System Information Functions", pg_snapshot: xmin:xmax:xip_list changes with every transaction that ends.
 */
export class SnapshotCache<T> {
  private readonly kept: LRUCache<string, Kept<T>>

  constructor(max: number) {
    this.kept = new LRUCache({ max, ttl: KEPT_MS })
  }

  get(req: Request, read: () => Promise<T>): Promise<T> {
    const { person, snapshot } = req.session
    if (!person || !snapshot) return read()
    const key = `${person.id} ${person.role} ${req.originalUrl}`
    const before = this.kept.get(key)
    if (before?.snapshot === snapshot) return before.value
    const value = read()
    const entry = { snapshot, value }
    this.kept.set(key, entry)
    value.catch(() => {
      if (this.kept.peek(key) === entry) this.kept.delete(key)
    })
    return value
  }
}

interface Answer {
  body: Buffer
  etag: string
}

/** Whole answers as JSON, written once for all who ask the same. */
export class SnapshotAnswers {
  private readonly answers = new SnapshotCache<Answer>(KEPT_ANSWERS)

  async send(req: Request, res: Response, read: () => Promise<unknown>): Promise<void> {
    const { body, etag } = await this.answers.get(req, async () => {
      const body = Buffer.from(JSON.stringify(await read()))
      return { body, etag: `W/"${createHash('sha1').update(body).digest('base64url')}"` }
    })
    res.set({ 'Content-Type': 'application/json; charset=utf-8', ETag: etag }).send(body)
  }
}
