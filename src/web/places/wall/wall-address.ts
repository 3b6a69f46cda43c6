import type { z } from 'zod'
import { BETWEEN, narrowingSchema } from '#shared/contracts/find.contract'

/** What the address bar holds of a wall, as text: everything but the page, which scrolling decides. Empty is not set. */
export type WallAddress = Required<z.input<typeof narrowingSchema>>
export type WallKey = keyof WallAddress

export const PAGE = 120
const USUAL_ORDER = 'best'

const KEYS = Object.keys(narrowingSchema.shape) as WallKey[]
export const NOTHING_SET = Object.fromEntries(KEYS.map(key => [key, key === 'order' ? USUAL_ORDER : ''])) as WallAddress

export function readAddress(params: URLSearchParams): WallAddress {
  const given = Object.fromEntries([...params].filter(([key]) => KEYS.includes(key as WallKey)))
  // An address somebody mistyped shows the whole wall rather than an error.
  return narrowingSchema.safeParse(given).success ? { ...NOTHING_SET, ...given } : NOTHING_SET
}

const isSet = ([key, value]: [string, string]): boolean => value !== '' && !(key === 'order' && value === USUAL_ORDER)

/** What is set of an address: for a request. */
export const setPart = (address: WallAddress): Partial<WallAddress> =>
  Object.fromEntries(Object.entries(address).filter(isSet)) as Partial<WallAddress>

export const writeAddress = (address: WallAddress): URLSearchParams =>
  new URLSearchParams(setPart(address) as Record<string, string>)

/** Whether anything keeps items away. */
export const isNarrowed = (address: WallAddress): boolean =>
  Object.entries(address).some(([key, value]) => key !== 'order' && key !== 'group' && value !== '')

/** Several values in one place of the address. */
export const readValues = (text: string): string[] => text.split(BETWEEN).filter(Boolean)
export const writeValues = (values: readonly string[]): string => values.join(BETWEEN)

/** With a value if it is not there, without it if it is. */
export const toggleValue = (text: string, value: string): string => {
  const values = readValues(text)
  return writeValues(values.includes(value) ? values.filter(v => v !== value) : [...values, value])
}

export interface TextRange {
  low: number | null
  high: number | null
}

export function readRange(text: string): TextRange {
  const [low, high] = text.split('..')
  return { low: low ? Number(low) : null, high: high ? Number(high) : null }
}

export const writeRange = ({ low, high }: TextRange): string =>
  low === null && high === null ? '' : `${low ?? ''}..${high ?? ''}`
