import { folderOf, stemWords, tokenizeName } from '#core/file-names'
import { findStamps, scaleBox, writeBox } from '#core/map/cut-out'
import { findTiling } from '#core/map/map-tiling'
import { guessMapUse, isStandAlone, readMapUse } from '#core/map/map-use'
import { measureMap } from '#core/map/measure-map'
import { measurePattern } from '#core/material/pattern'
import { EVEN_CHANCE, proposeCategory } from '#core/standard/propose-category'
import { decodeByteImage, readImageHeader } from '../reading/decode-image'
import type { TypedFile } from '../reading/source-file'
import { createItem, type RecognizedFile, type RecognizedItem } from './recognized-item'

/** A flat picture that is no part of a set. */
export interface LonePicture {
  file: TypedFile
  /** Whether its pixels are colour, or values of a role, so that it could be a surface by itself. */
  isSurfaceLike: boolean
  /** Beside a model, whose texture it may be. */
  isBesideModel: boolean
}

/** At this size what a map is for shows, and shapes on a sheet stand apart. */
const LOOKED_AT = 1024

/**
 * Stand-alone maps among flat pictures: by the words of their names and folders, or by what their pixels are. A sheet of stamps is as many
 * items as it has stamps, all of the one file until each is cut out of it.
 * @returns with the paths taken; the others stay what they were
 */
export async function recognizeMaps(pictures: readonly LonePicture[]): Promise<{ items: RecognizedItem[]; taken: Set<string> }> {
  const items: RecognizedItem[] = []
  const taken = new Set<string>()
  for (const picture of pictures) {
    const made = await recognizeMap(picture)
    if (made.length === 0) continue
    items.push(...made)
    taken.add(picture.file.path)
  }
  return { items, taken }
}

async function recognizeMap({ file, isSurfaceLike, isBesideModel }: LonePicture): Promise<RecognizedItem[]> {
  const words = stemWords(file.path)
  const folders = folderOf(file.path).split('/')
  const said = readMapUse(words, tokenizeName(folders.at(-1) ?? ''))
  if (isBesideModel && said === null) return []
  const header = await readImageHeader(file.diskPath).catch(() => null)
  // What does not decode is told of by whoever else opens it.
  const image = header && (await decodeByteImage(file.diskPath, LOOKED_AT, header).catch(() => null))
  if (!image) return []
  const figures = measureMap(image)
  const { confidence } = proposeCategory('material', { words, folders, facts: {} })
  const tiling = findTiling(image, figures)
  const guessed = guessMapUse(image, figures, measurePattern(image).periodStrength, tiling.x || tiling.y)
  if (!isStandAlone({ said, guessed, figures, isSurfaceLike, isNamedSurface: confidence > EVEN_CHANCE })) return []
  const entry: RecognizedFile = { file, role: 'map', byContentOnly: false, handednessHint: null }
  const mayBeSheet = said === null ? figures.alpha === 'cutOut' || guessed === 'mask' : said === 'stamp' || said === 'decal'
  const stamps = mayBeSheet ? findStamps(image) : []
  if (stamps.length < 2) return [createItem('map', [entry], words)]
  const [factorX, factorY] = [header.widthPx / image.width, header.heightPx / image.height]
  return stamps.map((box, k) => {
    const item = createItem('map', [entry], words)
    const whole = { width: header.widthPx, height: header.heightPx }
    return { ...item, name: `${item.name} ${k + 1}`, given: { cutOut: writeBox(scaleBox(box, factorX, factorY, whole)) } }
  })
}
