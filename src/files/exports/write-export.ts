import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { finished } from 'node:stream/promises'
import { type EntryData, ZipArchive } from 'archiver'
import { extensionOf } from '#core/codecs/sniff'
import { FileError, toFailure } from '#core/findings/failure'
import type { DeliveredMap } from '#core/hand-over/delivered-maps'
import { deliveredName, safeName } from '#core/hand-over/delivered-name'
import { type MaterialForm, type ModelForm, type Profile, sizeFor } from '#core/hand-over/profile'
import { isEulumdat, readPhotometry } from '#core/photometry/analyse-photometry'
import { writeIes } from '#core/photometry/write-ies'
import type { Stamp } from '#core/stamp'
import type { ExportManifest } from '#shared/contracts/hand-over.contract'
import { type ItemSource, lighterFiles, mainFile } from '../items/item-source'
import { decodeAsIs, readImageHeader } from '../reading/decode-image'
import { readBytes } from '../reading/source-file'
import { encodeMap } from '../writing/encode-map'
import type { WrittenFile } from './map-files'
import { writeEnvironment } from './write-environment'
import { type DeliveredNames, writeMaterialFiles, writeMaterialGlb, writeMaterialMap } from './write-material'
import { writeModelFiles, writeModelGlb } from './write-model'

export interface ExportItem {
  source: ItemSource
  code: string
  version: number
  category: string
  maker: string
  licence: string
  /** Whether it is taken along to be changed, and says so. */
  isCopy?: boolean
}

/** For which project, and where the whole of it can be had. */
export type HandedOver = Pick<ExportManifest, 'project'> &
  Partial<Pick<ExportManifest, 'source'>> & {
    /** What may not go along, each with its reason. */
    refused?: ExportManifest['failures']
  }

export interface WrittenExport {
  zipPath: string
  manifest: ExportManifest
}

/** Writes the items of a project as a zip with one folder an item and a manifest. An item that fails is named in it; the rest goes on. */
export async function writeExport(
  items: readonly ExportItem[],
  profile: Profile,
  { project, source = null, refused = [] }: HandedOver,
  zipPath: string,
  onProgress: (share: number) => void = () => {},
): Promise<WrittenExport> {
  const manifest: ExportManifest = {
    project,
    source,
    exportedAt: new Date().toISOString(),
    maxSizePx: profile.maxSizePx,
    profile,
    items: [],
    failures: [...refused],
  }
  const archive = new ZipArchive({ zlib: { level: 1 }, highWaterMark: 1 << 20 })
  const output = createWriteStream(zipPath)
  archive.pipe(output)
  const written = createLookahead(items, item => writeItem(item, profile))
  for (const [i, item] of items.entries()) {
    try {
      const { target, files, notes = [] } = await written(i)
      const folder = namesOf(item, profile).item
      const entries = files.map(f => ({
        path: `${folder}/${f.path}`,
        sha256: createHash('sha256').update(f.bytes).digest('hex'),
        bytes: f.bytes.length,
      }))
      for (const [k, f] of files.entries())
        archive.append(Buffer.from(f.bytes.buffer, f.bytes.byteOffset, f.bytes.byteLength), {
          name: entries[k].path,
          store: isPacked(f.path),
        } as EntryData)
      const { code, version, category, maker, licence, source } = item
      manifest.items.push({
        code,
        name: source.name,
        kind: source.kind,
        version,
        category,
        maker,
        licence,
        target,
        widthMm: source.widthMm,
        tiling: source.tiling ?? 'repeat',
        ...(item.isCopy ? { isCopy: true } : {}),
        notes,
        files: entries,
      })
    } catch (error) {
      if (!(error instanceof FileError)) throw error
      manifest.failures.push({ code: item.code, version: item.version, message: toFailure(error).message })
    }
    onProgress((i + 1) / items.length)
  }
  archive.append(`${JSON.stringify(manifest, null, 2)}\n`, { name: 'manifest.json' })
  await archive.finalize()
  await finished(output)
  return { zipPath, manifest }
}

/** Items that are read and converted while others are packed. */
const AHEAD = 2

/** Runs over things in order, a few ahead of what is asked for. */
function createLookahead<T, R>(things: readonly T[], run: (thing: T) => Promise<R>): (index: number) => Promise<R> {
  const running = new Map<number, Promise<R>>()
  return index => {
    for (let i = index; i <= Math.min(index + AHEAD, things.length - 1); i++) {
      if (running.has(i)) continue
      const started = run(things[i])
      // Whoever asks for it hears of it.
      started.catch(() => {})
      running.set(i, started)
    }
    const asked = running.get(index)!
    running.delete(index)
    return asked
  }
}

/** Pictures and packages are packed in themselves; to pack them again takes long and gains nothing. */
const isPacked = (path: string): boolean => /\.(png|jpe?g|webp|exr|usdz)$/i.test(path)

async function writeItem(
  item: ExportItem,
  profile: Profile,
): Promise<{ target: string; files: WrittenFile[]; notes?: string[] }> {
  const { source } = item
  const names = namesOf(item, profile)
  const stamp: Stamp = { code: item.code, version: item.version, ...(item.isCopy ? { isCopy: true } : {}) }
  const maxSizePx = sizeFor(profile, item.category)
  switch (source.kind) {
    case 'material': {
      const { materials: form, colorFiles } = profile
      const target = MATERIAL_TARGETS[form]
      if (form === 'gltf') return { target, files: await writeMaterialGlb(source, names.item, maxSizePx, stamp, colorFiles) }
      return { target, ...(await writeMaterialFiles(source, names, form, { ...profile, maxSizePx }, stamp)) }
    }
    case 'model': {
      const { models: form, modelDetail: detail } = profile
      const files = await writeModelFiles(source, names.item, { ...profile, form, detail, maxSizePx }, stamp)
      const { levels, standIn } = lighterFiles(source)
      const notes =
        detail !== 'full' && levels.length === 0 && !standIn ? ['It has no lighter version: the full one alone is here.'] : []
      return { target: MODEL_TARGETS[form], files, notes }
    }
    case 'environment':
      return writeEnvironment(source, names.item, { ...profile, maxSizePx })
    case 'map':
      return writeMap(source, names.item, { maps: profile.maps, maxSizePx })
    case 'light':
      return { target: 'IES LM-63-2002', files: await writeLight(source, names.item) }
    default:
      return source.kind satisfies never
  }
}

/** One map of a material by itself, named and written as a profile has it. @throws FileError where there is no such map */
export function writeItemMap(item: ExportItem, profile: Profile, map: DeliveredMap): Promise<WrittenFile> {
  const maxSizePx = sizeFor(profile, item.category)
  return writeMaterialMap(item.source, namesOf(item, profile), { ...profile, maxSizePx }, map)
}

const MATERIAL_TARGETS: Record<MaterialForm, string> = {
  materialX: 'MaterialX 1.39',
  gltf: 'glTF 2.0 sample patch',
  usd: 'OpenUSD sample patch, UsdPreviewSurface and MaterialX',
  objMtl: 'OBJ sample patch, MTL with physically based keys',
}
const MODEL_TARGETS: Record<ModelForm, string> = {
  gltf: 'glTF 2.0',
  usdz: 'OpenUSD package',
  obj: 'OBJ, MTL with physically based keys',
}

/** By the patterns of the profile. */
function namesOf({ code, version, category, maker, source }: ExportItem, profile: Profile): DeliveredNames {
  const facts = { code, name: source.name, version, category: category.split('.').at(-1)!, maker }
  return {
    item: deliveredName(profile.folderName, facts),
    texture: map => deliveredName(profile.textureName, { ...facts, map }),
  }
}

const MAP_WRITERS = {
  png: { target: 'PNG', ending: 'png' },
  tiff: { target: 'TIFF', ending: 'tif' },
  exr: { target: 'OpenEXR, values as they are', ending: 'exr' },
} as const

/** A map at its own depth: of 8 or 16 bits as PNG or TIFF, of floats as OpenEXR; as OpenEXR the values from 0 to 1 that the codes stand for. */
async function writeMap(source: ItemSource, name: string, { maps, maxSizePx }: Pick<Profile, 'maps' | 'maxSizePx'>) {
  const { path, diskPath } = mainFile(source)
  const { widthPx, heightPx } = await readImageHeader(diskPath)
  const isWhole = maxSizePx === null || Math.max(widthPx, heightPx) <= maxSizePx
  const ending = extensionOf(path)
  if (maps === 'asStored' && isWhole)
    return { target: 'as it is kept', files: [{ path: `${name}.${ending}`, bytes: await readBytes(mainFile(source)) }] }
  const form = maps !== 'asStored' ? maps : ending === 'exr' ? 'exr' : 'png'
  const image = await decodeAsIs(diskPath)
  const { target } = MAP_WRITERS[form]
  const bytes = await encodeMap(image, form, isWhole ? null : maxSizePx)
  return { target, files: [{ path: `${name}.${MAP_WRITERS[form].ending}`, bytes }] }
}

/** The file as its maker measured it; of another form, the same light as IES beside it. */
async function writeLight(source: ItemSource, name: string): Promise<WrittenFile[]> {
  const main = mainFile(source)
  const bytes = await readBytes(main)
  if (!isEulumdat(main.path)) return [{ path: `${name}.ies`, bytes }]
  const web = readPhotometry(main.path, Buffer.from(bytes).toString('latin1'))
  return [
    { path: `${name}.ldt`, bytes },
    { path: `${name}.ies`, bytes: Buffer.from(writeIes(web), 'latin1') },
  ]
}

/** A material on a patch of its size, or a model, as one binary glTF. */
export async function writeItemGlb(source: ItemSource, stamp: Stamp, maxSizePx: number | null = null): Promise<Uint8Array> {
  if (source.kind === 'model') return writeModelGlb(source, maxSizePx, stamp)
  const [{ bytes }] = await writeMaterialGlb(source, safeName(source.name), maxSizePx, stamp)
  return bytes
}
