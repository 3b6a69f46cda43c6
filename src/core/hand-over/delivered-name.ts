import { formatName, parseNamePattern } from '../standard/name-pattern'

/** What names of folders and files are made of. */
export interface NamedFacts {
  code: string
  name: string
  version: number
  category: string
  maker: string
  /** Which map of a material. */
  map?: string
}

/** Letters, digits and underscores: a name that every renderer and file system takes. */
export const safeName = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '') || 'item'

/** A name by the pattern of the house; where a fact for it is missing, of the code, the version and the map alone. */
export function deliveredName(pattern: string, facts: NamedFacts): string {
  const parsed = parseNamePattern(pattern)
  const { name } = 'parts' in parsed ? formatName(parsed.parts, { ...facts }) : { name: null }
  return safeName(name ?? `${facts.code} v${facts.version} ${facts.map ?? ''}`)
}
