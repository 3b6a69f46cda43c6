import { readFile } from 'node:fs/promises'
import { parseExr } from '#core/codecs/exr'
import { comparePictures } from '#core/compare/compare-pictures'
import { FileError } from '#core/findings/failure'
import { type ItemSource, mainFile } from './item-source'
import { readModelFile } from './load-item'

export interface ComparedVersions {
  /** Null where their pictures cannot be laid over each other. */
  pictures: { meanFlip: number; p95Flip: number; deltaEOfMeans: number } | null
  /** Names of the parts of models. */
  partsBefore: string[]
  partsAfter: string[]
}

/**
 * How far two versions of an item are apart.
 * @param pictures linear, as OpenEXR, the earlier version's first
 * @param sources of both, where they are still there
 */
export async function compareVersions(
  pictures: readonly [string, string],
  sources: readonly [ItemSource, ItemSource] | null,
): Promise<ComparedVersions> {
  const parts = sources ? await Promise.all(sources.map(listParts)) : [[], []]
  return { pictures: await layOver(pictures), partsBefore: parts[0], partsAfter: parts[1] }
}

async function layOver(paths: readonly [string, string]): Promise<ComparedVersions['pictures']> {
  try {
    const [before, after] = await Promise.all(paths.map(async path => parseExr(new Uint8Array(await readFile(path)))))
    const { meanFlip, p95Flip, deltaEOfMeans } = comparePictures(before, after)
    return { meanFlip, p95Flip, deltaEOfMeans }
  } catch (error) {
    if (error instanceof RangeError || error instanceof FileError) return null
    throw error
  }
}

async function listParts(source: ItemSource): Promise<string[]> {
  if (source.kind !== 'model') return []
  try {
    const { parts } = await readModelFile(source, mainFile(source))
    return [...new Set(parts.map(p => p.name))].sort()
  } catch (error) {
    if (error instanceof FileError) return []
    throw error
  }
}
