import type { QualityName } from '#core/render/rigs/rig'

/** One picture of a comparison, as it stands in an address: `TIM-0142.v2.final.material-stage`, all but the code optional. */
export interface CompareKey {
  code: string
  version: number | null
  quality: QualityName | null
  rig: string | null
}

export const MOST_COMPARED = 6

/** A rig's name, and none of the other parts. */
const RIG_NAME = /^(?!v\d+$|draft$|final$)[a-z][a-z0-9-]*$/

/** Null for what is no such key. */
export function parseCompareKey(text: string): CompareKey | null {
  const [code, ...rest] = text.split('.')
  if (!/^([A-Z0-9]{2,6}-)?[A-Z]{2,5}-\d{1,9}$/.test(code ?? '')) return null
  const key: CompareKey = { code, version: null, quality: null, rig: null }
  for (const part of rest) {
    const version = /^v([1-9]\d{0,6})$/.exec(part)
    if (version && key.version === null) key.version = Number(version[1])
    else if ((part === 'draft' || part === 'final') && key.quality === null) key.quality = part
    else if (RIG_NAME.test(part) && key.rig === null) key.rig = part
    else return null
  }
  return key
}

export const formatCompareKey = ({ code, version, quality, rig }: CompareKey): string =>
  [code, version !== null ? `v${version}` : null, quality, rig].filter(p => p !== null).join('.')

/** The keys of an address, at most six; what is none is left out. */
export const parseCompareKeys = (text: string): CompareKey[] =>
  text
    .split(',')
    .map(parseCompareKey)
    .filter(k => k !== null)
    .slice(0, MOST_COMPARED)
