import { z } from 'zod'

export interface Endpoint {
  method: 'get' | 'post' | 'patch' | 'delete'
  /** With `{name}` for path parameters. */
  path: string
  summary: string
  /** Everything but signing in needs a session. */
  open?: boolean
  /** Whether guests may ask it too; whatever does not say so is refused to them. */
  guests?: boolean
  params?: z.ZodType
  query?: z.ZodType
  body?: z.ZodType
  response: z.ZodType
}

export const id = z.coerce.number().int().positive()
export const created = z.object({ id: z.number() })
export const done = z.object({ ok: z.literal(true) })
export const DONE = { ok: true } as const

export const endpoint = <E extends Endpoint>(given: E): E => given
