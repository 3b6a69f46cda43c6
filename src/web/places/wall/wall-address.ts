import { type WallQuery, wallQuerySchema } from '#shared/contracts/items.contract'

/** What the address bar holds of a wall: everything but the page, which scrolling decides. */
export type WallAddress = Omit<WallQuery, 'offset' | 'limit'>

export const PAGE = 120

export function readAddress(params: URLSearchParams): WallAddress {
  const parsed = wallQuerySchema.safeParse(Object.fromEntries(params))
  // An address somebody mistyped shows the whole wall rather than an error.
  const { offset: _, limit: __, ...address } = parsed.success ? parsed.data : wallQuerySchema.parse({})
  return address
}

export function writeAddress(address: WallAddress): URLSearchParams {
  return new URLSearchParams(Object.entries(address).filter(([, value]) => value !== ''))
}
