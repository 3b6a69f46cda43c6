import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { basename } from 'node:path'
import { finished } from 'node:stream/promises'
import { textureCompress } from '@gltf-transform/functions'
import { ZipArchive } from 'archiver'
import sharp from 'sharp'
import { writeHdr } from '#core/codecs/hdr'
import { extensionOf } from '#core/codecs/sniff'
import { FileError, toFailure } from '#core/findings/failure'
import { collectRows } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { isEulumdat, readPhotometry } from '#core/photometry/analyse-photometry'
import { writeIes } from '#core/photometry/write-ies'
import { readGltfBinary, type Stamp, stampDocument, writeGltfBinary } from '#core/targets/gltf'
import type { ExportManifest } from '#shared/contracts/hand-over.contract'
import type { ExportRequest } from '#shared/contracts/projects.contract'
import { type ItemSource, mainFile } from '../items/load-item'
import { readEnvironmentRows } from '../reading/decode-environment'
import { decodeAsIs, readImageHeader } from '../reading/decode-image'
import { readBytes } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import { encodeMap } from '../writing/encode-map'
import { type WrittenFile, writeMaterialGlb, writeMaterialXFiles } from './write-material'

export interface ExportItem {
  source: ItemSource
  code: string
  version: number
  category: string
  maker: string
  licence: string
}

/** For which project, and where the whole of it can be had. */
export type HandedOver = Pick<ExportManifest, 'project'> & Partial<Pick<ExportManifest, 'source'>>

export interface WrittenExport {
  zipPath: string
  manifest: ExportManifest
}

/** Writes the items of a project as a zip with one folder an item and a manifest. An item that fails is named in it; the rest goes on. */
export async function writeExport(
  items: readonly ExportItem[],
  request: ExportRequest,
  { project, source = null }: HandedOver,
  zipPath: string,
  onProgress: (share: number) => void = () => {},
): Promise<WrittenExport> {
  const manifest: ExportManifest = {
    project,
    source,
    exportedAt: new Date().toISOString(),
    maxSizePx: request.maxSizePx,
    items: [],
    failures: [],
  }
  const archive = new ZipArchive({ zlib: { level: 1 } })
  const output = createWriteStream(zipPath)
  archive.pipe(output)
  for (const [i, item] of items.entries()) {
    try {
      const { target, files } = await writeItem(item, request)
      const folder = folderName(item)
      const entries = files.map(f => ({
        path: `${folder}/${f.path}`,
        sha256: createHash('sha256').update(f.bytes).digest('hex'),
        bytes: f.bytes.length,
      }))
      for (const [k, f] of files.entries())
        archive.append(Buffer.from(f.bytes.buffer, f.bytes.byteOffset, f.bytes.byteLength), { name: entries[k].path })
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

/** Letters, digits and underscores: a name that every renderer and file system takes. */
const safeName = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '') || 'item'
const fileNameOf = (item: ExportItem): string => `${safeName(item.code)}_${safeName(item.source.name)}_v${item.version}`
const folderName = (item: ExportItem): string => fileNameOf(item)

async function writeItem(item: ExportItem, request: ExportRequest): Promise<{ target: string; files: WrittenFile[] }> {
  const { source } = item
  const name = fileNameOf(item)
  const stamp: Stamp = { code: item.code, version: item.version }
  switch (source.kind) {
    case 'material':
      return request.materials === 'gltf'
        ? { target: 'glTF 2.0 sample patch', files: await writeMaterialGlb(source, name, request.maxSizePx, stamp) }
        : { target: 'MaterialX 1.39', files: await writeMaterialXFiles(source, name, request.maxSizePx) }
    case 'model':
      return { target: 'glTF 2.0', files: [{ path: `${name}.glb`, bytes: await writeModel(source, request.maxSizePx, stamp) }] }
    case 'environment':
      return writeEnvironment(source, name, request)
    case 'map':
      return writeMap(source, name, request)
    case 'light':
      return { target: 'IES LM-63-2002', files: await writeLight(source, name) }
    default:
      return source.kind satisfies never
  }
}

const MAP_FORMS = {
  png: { target: 'PNG', ending: 'png' },
  tiff: { target: 'TIFF', ending: 'tif' },
  exr: { target: 'OpenEXR, values as they are', ending: 'exr' },
} as const

/** A map at its own depth: of 8 or 16 bits as PNG or TIFF, of floats as OpenEXR; as OpenEXR the values from 0 to 1 that the codes stand for. */
async function writeMap(source: ItemSource, name: string, { maps, maxSizePx }: ExportRequest) {
  const { path, diskPath } = mainFile(source)
  const { widthPx, heightPx } = await readImageHeader(diskPath)
  const isWhole = maxSizePx === null || Math.max(widthPx, heightPx) <= maxSizePx
  const ending = extensionOf(path)
  if (maps === 'asStored' && isWhole)
    return { target: 'as it is kept', files: [{ path: `${name}.${ending}`, bytes: await readBytes(mainFile(source)) }] }
  const form = maps !== 'asStored' ? maps : ending === 'exr' ? 'exr' : 'png'
  const image = await decodeAsIs(diskPath)
  const { target } = MAP_FORMS[form]
  const bytes = await encodeMap(image, form, isWhole ? null : maxSizePx)
  return { target, files: [{ path: `${name}.${MAP_FORMS[form].ending}`, bytes }] }
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

async function writeModel(source: ItemSource, maxSizePx: number | null, stamp: Stamp): Promise<Uint8Array> {
  const main = source.files.find(f => f.role === 'model')
  if (!main) throw new FileError('notFound', 'The item has no model file.')
  let document: Awaited<ReturnType<typeof readGltfBinary>>
  try {
    document = await readGltfBinary(await readBytes(main.file))
  } catch {
    throw new FileError('malformed', 'The model does not read.')
  }
  if (maxSizePx !== null) await document.transform(textureCompress({ encoder: sharp, resize: [maxSizePx, maxSizePx] }))
  stampDocument(document, stamp)
  return writeGltfBinary(document)
}

/** A material on a patch of its size, or a model, as one binary glTF. */
export async function writeItemGlb(source: ItemSource, stamp: Stamp, maxSizePx: number | null = null): Promise<Uint8Array> {
  if (source.kind === 'model') return writeModel(source, maxSizePx, stamp)
  const [{ bytes }] = await writeMaterialGlb(source, safeName(source.name), maxSizePx, stamp)
  return bytes
}

async function writeEnvironment(source: ItemSource, name: string, { environments, maxSizePx }: ExportRequest) {
  const main = source.files.find(f => f.role === 'environment')
  if (!main) throw new FileError('notFound', 'The item has no environment file.')
  const stored = extensionOf(basename(main.file.path)) === 'hdr' ? 'hdr' : 'exr'
  const format = environments === 'asStored' ? stored : environments
  const target = format === 'exr' ? 'OpenEXR, linear Rec.709' : 'Radiance HDR, linear Rec.709'
  const map = readEnvironmentRows(main.file.diskPath, stored, rows => {
    if (maxSizePx !== null && rows.width > maxSizePx) return reduceRows(rows, maxSizePx)
    return format === stored ? null : collectRows(rows)
  })
  const bytes = map === null ? await readBytes(main.file) : format === 'exr' ? encodeExr(map) : writeHdr(map)
  return { target, files: [{ path: `${name}.${format}`, bytes }] }
}
