import { sniffType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { cutBox, readBox } from '#core/map/cut-out'
import { type ItemSource, isMapRole } from '../items/item-source'
import { assembleModel, isPlainGlb } from '../models/assemble-model'
import { decodeAsIs } from '../reading/decode-image'
import { listLayerMaps, readLayer } from '../reading/pictures/layers'
import { readHead, type SourceFile } from '../reading/source-file'
import { toPanorama } from '../writing/house-panorama'
import { isUnusualPicture, toPng } from '../writing/house-picture'
import { splitAlpha } from '../writing/split-alpha'
import type { DerivedFile } from './apply-fixes'
import { bakeDefinition } from './bake-definition'

/**
 * Brings what an item came in into the forms that the house works with: of each model and level of detail one self-contained binary glTF
 * without compression, of each picture of another kind a PNG, of a definition's graph its maps, of each surrounding a panorama of linear light. Nothing where there is nothing to do.
 * @returns with the addresses that no file was found for
 * @throws FileError when a model does not read, or a buffer of it did not come along
 */
export async function takeHouseForm(source: ItemSource): Promise<{ files: DerivedFile[]; missing: string[] }> {
  const parts = source.files.filter(f => f.role === 'modelPart').map(f => f.file)
  const made: DerivedFile[] = []
  const missingOnes = new Set<string>()
  const taken = new Set(source.files.map(f => f.file.path))
  /** The same name with another ending, or with a number where that is taken. */
  const nameFor = (path: string, ending: string): string => {
    const stem = path.replace(/\.[^./]+$/, '')
    let name = `${stem}.${ending}`
    for (let n = 2; name !== path && taken.has(name); n++) name = `${stem} ${n}.${ending}`
    taken.add(name)
    return name
  }
  for (const { file, role, handednessHint } of source.files) {
    if (role === 'map') {
      const bytes = await takeMap(source, file)
      // Pieces of one sheet are told apart by where they were cut.
      const cut = source.cutOut && bytes ? ` ${source.cutOut.split(' ').slice(0, 2).join('-')}` : ''
      const path = nameFor(file.path.replace(/(\.[^./]+)?$/, `${cut}$1`), 'png')
      if (bytes) made.push({ from: file.path, path, role, handednessHint: null, bytes })
    } else if (role === 'environment') {
      const panorama = await toPanorama(file)
      if (panorama)
        made.push({ from: file.path, path: nameFor(file.path, 'exr'), role, handednessHint: null, bytes: panorama.bytes })
    } else if (role === 'model' || role === 'lod') {
      if (await isPlainGlb(file)) continue
      const { bytes, missing } = await assembleModel(file, parts)
      for (const address of missing) missingOnes.add(address)
      made.push({ from: file.path, path: nameFor(file.path, 'glb'), role, handednessHint: null, bytes })
    } else if ((isMapRole(role) || role === 'alternate' || role === 'picture') && (await isUnusualPicture(file))) {
      const isColor = role === 'baseColor' || role === 'emission' || role === 'picture'
      // Another size of a sky stays what it is.
      if (role === 'alternate' && source.kind === 'environment') continue
      made.push({ from: file.path, path: nameFor(file.path, 'png'), role, handednessHint, bytes: await toPng(file, { isColor }) })
    }
  }
  made.push(...(await takeLayers(source)), ...(await bakeDefinition(source)), ...(await takeAlpha(source)))
  return { files: made, missing: [...missingOnes] }
}

/** Its part of a sheet, or a picture of another kind as PNG. OpenEXR stays: it may hold more than codes. Null where it is as it should be. */
async function takeMap({ cutOut, files }: ItemSource, file: SourceFile): Promise<Uint8Array | null> {
  const box = cutOut === undefined || files.some(f => f.role === 'original') ? null : readBox(cutOut)
  if (box) {
    const sheet = await decodeAsIs(file.diskPath)
    const isInside = box.x + box.width <= sheet.width && box.y + box.height <= sheet.height
    if (!isInside) throw new FileError('malformed', 'What should be cut from this sheet lies outside of it.')
    return toPng(cutBox(sheet, box))
  }
  const isExr = sniffType(await readHead(file.diskPath)) === 'exr'
  return !isExr && (await isUnusualPicture(file)) ? toPng(file) : null
}

/** The opacity that a base colour carries as its alpha, where no map says it. */
async function takeAlpha({ kind, files }: ItemSource): Promise<DerivedFile[]> {
  const color = files.find(f => f.role === 'baseColor')?.file
  if (kind !== 'material' || !color || files.some(f => f.role === 'opacity')) return []
  // A map that does not read is told of when it is measured.
  const bytes = await splitAlpha(color.diskPath).catch(() => null)
  const path = color.path.replace(/(\.[^./]+)?$/, '_opacity.png')
  return bytes ? [{ from: null, path, role: 'opacity', handednessHint: null, bytes }] : []
}

/** The maps of a set that came as the layers of one file. */
async function takeLayers({ kind, files }: ItemSource): Promise<DerivedFile[]> {
  const made: DerivedFile[] = []
  if (kind !== 'material') return made
  for (const { file } of files.filter(f => f.role === 'original'))
    for (const { role, layer } of await listLayerMaps(file)) {
      if (files.some(f => f.role === role) || made.some(m => m.role === role)) continue
      const isColor = role === 'baseColor' || role === 'emission'
      const bytes = await toPng(await readLayer(file, layer), { isColor })
      const path = `${file.path.replace(/\.[^./]+$/, '')}_${role}.png`
      made.push({ from: null, path, role, handednessHint: null, bytes })
    }
  return made
}
