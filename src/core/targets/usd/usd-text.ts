import { shortFloat } from '../text-chunks'
import { createUniqueNames } from '../unique-names'

/** A name that a prim may have. */
export const toPrimName = (name: string): string => name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(\d)/, '_$1') || 'material'

export const tuple = (values: readonly number[]): string => `(${values.join(', ')})`
export const shortTuple = (values: readonly number[]): string => `(${values.map(shortFloat).join(', ')})`

/** A text in quotes. */
export const quoted = (text: string): string => `"${text.replace(/[\\"]/g, c => `\\${c}`).replace(/\s+/g, ' ')}"`

/** The address of another file. */
export const asset = (path: string): string => `@${path.replaceAll('@', '')}@`

export const indent = (lines: readonly string[], depth: number): string[] => lines.map(line => `${'    '.repeat(depth)}${line}`)

/** Gives every thing of one place a name of its own. */
export const createPrimNames = (): ((name: string) => string) => createUniqueNames(toPrimName)
