/**
 * House names: a pattern of facts and words. `{botanicalName}` stands for a fact, `{name}` for what the item is called now without its
 * clutter; `{maker:upper}` sets its case (upper, lower, title, sentence); what stands in square brackets is left out when a fact in it is
 * missing. `{series} {number}, {name:sentence} [({sheen})]`
 */

export type NamePart =
  | { kind: 'text'; text: string }
  | { kind: 'fact'; fact: string; letterCase: LetterCase | null }
  | { kind: 'option'; parts: NamePart[] }

export const LETTER_CASES = ['upper', 'lower', 'title', 'sentence'] as const
export type LetterCase = (typeof LETTER_CASES)[number]

export type ParsedPattern = { parts: NamePart[] } | { problem: string }

const MAX_LENGTH = 200

/** Reads a pattern; a problem is a sentence for whoever wrote it. */
export function parseNamePattern(text: string): ParsedPattern {
  if (text.trim() === '') return { problem: 'A pattern needs at least one fact, such as {name}.' }
  if (text.length > MAX_LENGTH) return { problem: `A pattern has at most ${MAX_LENGTH} characters.` }
  const outer: NamePart[] = []
  let inner: NamePart[] | null = null
  let at = 0
  while (at < text.length) {
    const target = inner ?? outer
    const c = text[at]
    if (c === '{') {
      const end = text.indexOf('}', at)
      if (end < 0) return { problem: 'A { has no } after it.' }
      const found = /^([a-zA-Z][a-zA-Z0-9]*)(?::([a-z]+))?$/.exec(text.slice(at + 1, end))
      if (!found) return { problem: `{${text.slice(at + 1, end)}} is no fact; write it as {name} or {maker:upper}.` }
      if (found[2] && !(LETTER_CASES as readonly string[]).includes(found[2]))
        return { problem: `${found[2]} is no case; there are ${LETTER_CASES.join(', ')}.` }
      target.push({ kind: 'fact', fact: found[1], letterCase: (found[2] as LetterCase | undefined) ?? null })
      at = end + 1
    } else if (c === '[') {
      if (inner) return { problem: 'A [ stands inside another one.' }
      inner = []
      at++
    } else if (c === ']') {
      if (!inner) return { problem: 'A ] has no [ before it.' }
      outer.push({ kind: 'option', parts: inner })
      inner = null
      at++
    } else if (c === '}') return { problem: 'A } has no { before it.' }
    else {
      let end = at
      while (end < text.length && !'{}[]'.includes(text[end])) end++
      target.push({ kind: 'text', text: text.slice(at, end) })
      at = end
    }
  }
  if (inner) return { problem: 'A [ has no ] after it.' }
  const hasFact = (parts: readonly NamePart[]): boolean =>
    parts.some(p => p.kind === 'fact' || (p.kind === 'option' && hasFact(p.parts)))
  return hasFact(outer) ? { parts: outer } : { problem: 'A pattern needs at least one fact, such as {name}.' }
}

export interface ProposedName {
  /** Null when a fact that the pattern needs is missing. */
  name: string | null
  missing: string[]
}

/** The name that a pattern gives to facts. Blanks where something was left out are closed up. */
export function formatName(
  parts: readonly NamePart[],
  facts: Readonly<Record<string, string | number | boolean | undefined>>,
): ProposedName {
  const missing: string[] = []
  const textOf = (fact: string): string => {
    const value = facts[fact]
    return value === undefined || value === '' ? '' : String(value).trim()
  }
  const write = (list: readonly NamePart[], isOption: boolean): string | null => {
    let out = ''
    for (const part of list) {
      if (part.kind === 'text') out += part.text
      else if (part.kind === 'option') out += write(part.parts, true) ?? ''
      else {
        const value = textOf(part.fact)
        if (value === '') {
          if (isOption) return null
          missing.push(part.fact)
        }
        out += setCase(value, part.letterCase)
      }
    }
    return out
  }
  const name = (write(parts, false) ?? '')
    .replace(/\s+/g, ' ')
    .replace(/ ([,.;)])/g, '$1')
    .replace(/^[\s,;.-]+|[\s,;-]+$/g, '')
  return { name: missing.length > 0 || name === '' ? null : name, missing: [...new Set(missing)] }
}

function setCase(text: string, letterCase: LetterCase | null): string {
  switch (letterCase) {
    case 'upper':
      return text.toUpperCase()
    case 'lower':
      return text.toLowerCase()
    case 'title':
      return text.replace(/\S+/g, word => word[0].toUpperCase() + word.slice(1).toLowerCase())
    case 'sentence':
      return text === '' ? '' : text[0].toUpperCase() + text.slice(1).toLowerCase()
    case null:
      return text
    default:
      return letterCase satisfies never
  }
}

/** What an item is called without the clutter that files bring: separators, resolutions, endings, a copy's number. */
export function cleanName(name: string): string {
  const words = name
    .replace(/\.(png|jpe?g|tiff?|webp|exr|hdr|glb|gltf|obj|zip)$/i, '')
    .replace(/[_]+/g, ' ')
    .replace(/\s*\(\d+\)\s*$/, '')
    .split(/\s+/)
    .filter(word => !/^(\d{1,2}k|\d{3,5}px|final|v\d+|lod\d?)$/i.test(word))
  return words.join(' ').trim() || name.trim()
}
