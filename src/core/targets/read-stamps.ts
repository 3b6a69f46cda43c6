import type { Stamp } from '../stamp'

/** Stamps of a text form, by the names of what they stand on. */
export interface NamedStamps {
  materials: Map<string, Stamp>
  nodes: Map<string, Stamp>
  /** Of the file as a whole. */
  whole: Stamp | null
  /** What things are called where their own names may not be so, by those. */
  displayNames: Map<string, string>
}

const COMMENT = /^#\s*muscovite(-copy)? (\S{1,40}) (\d{1,9})\s*$/
const toStamp = (found: RegExpExecArray | null): Stamp | null => found && stampFrom(found[2], found[3], found[1] !== undefined)
const stampFrom = (code: string, version: string, isCopy: boolean): Stamp => ({
  ...{ code, version: Number(version) },
  ...(isCopy ? { isCopy } : {}),
})

/**
 * Stamps in an OBJ file and its material libraries: comments of the form `# muscovite CODE VERSION` (`muscovite-copy` of an editable copy), before everything in the one and with
 * the name of a group below the line that names it, under `newmtl` in the other.
 */
export function readObjStamps(obj: string, libraries: readonly string[]): NamedStamps {
  const stamps: NamedStamps = { materials: new Map(), nodes: new Map(), whole: null, displayNames: new Map() }
  for (const line of obj.slice(0, HEAD_CHARS).split(/\r?\n/)) {
    if (!line.startsWith('#')) break
    stamps.whole ??= toStamp(COMMENT.exec(line))
  }
  for (const found of obj.matchAll(OF_GROUP)) stamps.nodes.set(found[4], stampFrom(found[2], found[3], found[1] !== undefined))
  for (const library of libraries) {
    let name: string | null = null
    for (const line of library.split(/\r?\n/)) {
      if (line.startsWith('newmtl ')) name = line.slice('newmtl '.length).trim()
      const stamp = name === null ? null : toStamp(COMMENT.exec(line))
      if (name !== null && stamp) stamps.materials.set(name, stamp)
    }
  }
  return stamps
}
const HEAD_CHARS = 4096
const OF_GROUP = /^#\s*muscovite(-copy)? (\S{1,40}) (\d{1,9}) (\S+)\s*$/gm

const DEFINITION = /^\s*def\s+(?:(\w+)\s+)?"([^"]+)"/
const DISPLAY_NAME = /^\s*displayName\s*=\s*"((?:[^"\\]|\\.){1,300})"/
const CODE = /^\s*string\s+code\s*=\s*"([^"\\]{1,40})"/
const IS_COPY = /^\s*bool\s+isCopy\s*=\s*(1|true)\b/
const VERSION = /^\s*int\s+version\s*=\s*(\d{1,9})/

/**
 * Stamps in a text layer of OpenUSD: `customData` with a dictionary `muscovite`, of the prim whose definition it stands in, or of the layer
 * before the first; and the names that prims are shown under, but for those of a name that stands for several.
 */
export function readUsdStamps(layer: string): NamedStamps {
  const stamps: NamedStamps = { materials: new Map(), nodes: new Map(), whole: null, displayNames: new Map() }
  const ambiguous = new Set<string>()
  let prim: { type: string; name: string } | null = null
  let code: string | null = null
  let isInside = false
  let isCopy = false
  for (const line of linesOf(layer)) {
    const definition = DEFINITION.exec(line)
    if (definition) prim = { type: definition[1] ?? '', name: definition[2] }
    const displayed = DISPLAY_NAME.exec(line)
    if (displayed && prim) {
      const name = displayed[1].replace(/\\(.)/g, '$1')
      const other = stamps.displayNames.get(prim.name)
      if (other !== undefined && other !== name) ambiguous.add(prim.name)
      stamps.displayNames.set(prim.name, name)
    }
    if (/dictionary\s+muscovite\s*=\s*\{/.test(line)) [isInside, code, isCopy] = [true, null, false]
    if (!isInside) continue
    code ??= CODE.exec(line)?.[1] ?? null
    isCopy ||= IS_COPY.test(line)
    const version = VERSION.exec(line)
    if (code !== null && version) {
      const stamp = stampFrom(code, version[1], isCopy)
      if (!prim) stamps.whole = stamp
      else (prim.type === 'Material' ? stamps.materials : stamps.nodes).set(prim.name, stamp)
      isInside = false
    }
  }
  for (const name of ambiguous) stamps.displayNames.delete(name)
  return stamps
}

/** Line by line, without the long ones: those are points and faces. */
function* linesOf(text: string): Iterable<string> {
  for (let at = 0; at < text.length; ) {
    const end = text.indexOf('\n', at)
    const stop = end < 0 ? text.length : end
    if (stop - at < 400) yield text.slice(at, stop)
    at = stop + 1
  }
}
