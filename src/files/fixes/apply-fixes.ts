import { textureCompress } from '@gltf-transform/functions'
import sharp from 'sharp'
import { writeHdr } from '#core/codecs/hdr'
import { resolveType } from '#core/codecs/sniff'
import { TIER_WIDTHS } from '#core/environment/analyse-environment'
import { applyGain, closeSeam, repairPixels, rollToHeading } from '#core/environment/fixes/environment-fixes'
import { FileError } from '#core/findings/failure'
import { type Fix, orderFixes } from '#core/fixes/fix'
import { fixGlb } from '#core/geometry/fixes/fix-glb'
import { makeLevels, makeStandIn } from '#core/geometry/fixes/levels-of-detail'
import type { FloatImage, Image } from '#core/image/image'
import { rowsOfImage } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { bleedColors, dropAlpha, fillRange, toGrey } from '#core/map/map-fixes'
import { makeTileable } from '#core/material/fixes/make-tileable'
import { flipGreen, renormalize } from '#core/material/fixes/normal-fixes'
import { removeBakedLight } from '#core/material/fixes/remove-baked-light'
import { encodeForDisplay, invertValues } from '#core/material/fixes/value-fixes'
import { PACKED_ROLES, packMaps, unpackMaps } from '#core/material/pack-maps'
import { computeMeanAlbedo } from '#core/material/palette'
import { readGltfBinary, writeGltfBinary } from '#core/targets/gltf'
import { type ItemSource, isMapRole, mainFile } from '../items/item-source'
import { decodeEnvironment } from '../reading/decode-environment'
import { decodeByteImage, decodeFullDepth, MAX_SIDE } from '../reading/decode-image'
import { readBytes, readHead, type SourceFile } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import { encodeMap, openPixels } from '../writing/encode-map'
import { assignMaterials } from './assign-materials'

/** A file that takes the place of one of an item's, which stays as it was. */
export interface DerivedFile {
  /** Path of the file whose place it takes; null for one that stands beside the others. */
  from: string | null
  path: string
  role: string
  handednessHint: 'openGl' | 'directX' | null
  bytes: Uint8Array
}

/**
 * Computes the files that answer findings. All fixes work at full size and full depth.
 * @param materials house materials that fixes name, by their version
 * @throws FileError when a file concerned does not read
 */
export async function applyFixes(
  source: ItemSource,
  fixes: readonly Fix[],
  materials: Readonly<Record<number, ItemSource>> = {},
): Promise<DerivedFile[]> {
  const ordered = orderFixes(fixes)
  switch (source.kind) {
    case 'material':
      return fixMaps(source, ordered)
    case 'model':
      return fixModel(source, ordered, materials)
    case 'environment':
      return fixEnvironment(source, ordered)
    case 'map':
      return fixFlat(source, ordered)
    case 'light':
      throw new FileError('unsupported', 'A photometric file is taken as its maker measured it; there is nothing to fix.')
    default:
      return source.kind satisfies never
  }
}

/** The levels of detail that came along are fixed with the model, as far as a fix is theirs as well; levels made anew replace them. */
async function fixModel(
  source: ItemSource,
  fixes: readonly Fix[],
  materials: Readonly<Record<number, ItemSource>>,
): Promise<DerivedFile[]> {
  const main = mainFile(source)
  const remakesLevels = fixes.some(f => f.code === 'makeLevels')
  const textures = fixes.find(f => f.code === 'reduceTextures')
  const assigned = fixes.filter(f => f.code === 'assignMaterial')
  const ofModel = fixes.filter(f => !['makeLevels', 'reduceTextures', 'assignMaterial'].includes(f.code))
  const fixed = async (file: SourceFile, role: string, own: readonly Fix[]): Promise<DerivedFile> => ({
    from: file.path,
    path: file.path,
    role,
    handednessHint: null,
    // Assigned first: naming a part afterwards must not hide it.
    bytes: await reduceTextures(await fixGlb(await assignMaterials(await readBytes(file), assigned, materials), own), textures),
  })
  const whole = await fixed(main, 'model', ofModel)
  const ofLevels = ofModel.filter(f => f.code !== 'reduceToBudget')
  const levels: DerivedFile[] = []
  for (const { file } of source.files.filter(f => f.role === 'lod'))
    levels.push(await fixed(file, remakesLevels ? 'alternate' : 'lod', ofLevels))
  return [whole, ...levels, ...(remakesLevels ? await deriveLevels(main.path, whole.bytes) : [])]
}

async function reduceTextures(bytes: Uint8Array, fix: Fix | undefined): Promise<Uint8Array> {
  if (!fix) return bytes
  const budget = Number(fix.parameters.budgetPx)
  const document = await readGltfBinary(bytes)
  await document.transform(textureCompress({ encoder: sharp, resize: [budget, budget] }))
  return writeGltfBinary(document)
}

async function deriveLevels(path: string, bytes: Uint8Array): Promise<DerivedFile[]> {
  const stem = path.replace(/\.[^./]+$/, '')
  const levels = await makeLevels(bytes)
  const standIn = await makeStandIn(bytes, picture =>
    decodeByteImage(picture, 256).then(
      image => computeMeanAlbedo(image).albedo,
      () => null,
    ),
  )
  const beside = (name: string, role: string, made: Uint8Array): DerivedFile => ({
    from: null,
    path: `${stem}_${name}.glb`,
    role,
    handednessHint: null,
    bytes: made,
  })
  return [...levels.map((level, i) => beside(`LOD${i + 1}`, 'lod', level.bytes)), beside('stand-in', 'standIn', standIn.bytes)]
}

async function fixEnvironment(source: ItemSource, fixes: readonly Fix[]): Promise<DerivedFile[]> {
  const file = mainFile(source)
  const type = resolveType(file.path, await readHead(file.diskPath))
  if (type !== 'exr' && type !== 'hdr')
    throw new FileError('typeMismatch', 'An environment must be an OpenEXR or Radiance HDR file.')
  let map: FloatImage = decodeEnvironment(await readBytes(file), type)
  let wantsTiers = false
  for (const { code, parameters } of fixes) {
    if (code === 'repairPixels') map = repairPixels(map)
    else if (code === 'closeSeam') map = closeSeam(map)
    else if (code === 'applyGain') map = applyGain(map, Number(parameters.gain))
    else if (code === 'rollToHeading') map = rollToHeading(map, Number(parameters.azimuthDeg), Number(parameters.houseDeg))
    else if (code === 'makeTiers') wantsTiers = true
    else throw new RangeError(`${code} is no fix of an environment`)
  }
  const encode = (image: FloatImage) => (type === 'exr' ? encodeExr(image) : writeHdr(image))
  const whole: DerivedFile = { from: file.path, path: file.path, role: 'environment', handednessHint: null, bytes: encode(map) }
  if (!wantsTiers) return [whole]
  const stem = file.path.replace(/([ _-]?\d{1,2}k)?\.[^./]+$/i, '')
  const tiers = TIER_WIDTHS.filter(w => w < map.width).map(
    (width): DerivedFile => ({
      from: null,
      path: `${stem}_${width / 1024}k.${type}`,
      role: 'alternate',
      handednessHint: null,
      bytes: encode(reduceRows(rowsOfImage(map), width)),
    }),
  )
  return [whole, ...tiers]
}

interface OpenMap {
  path: string
  diskPath: string
  role: string
  handednessHint: 'openGl' | 'directX' | null
  image: Image
  isChanged: boolean
}

async function fixMaps(source: ItemSource, fixes: readonly Fix[]): Promise<DerivedFile[]> {
  const maps: OpenMap[] = []
  for (const { file, role, handednessHint } of source.files)
    if (isMapRole(role))
      maps.push({
        path: file.path,
        diskPath: file.diskPath,
        role,
        handednessHint,
        image: await decodeFullDepth(file.diskPath, MAX_SIDE),
        isChanged: false,
      })
  const wants = (code: Fix['code']) => fixes.some(f => f.code === code)
  for (const fix of fixes) if (fix.code !== 'unpackMaps' && fix.code !== 'packMaps') await fixOneOrAll(maps, fix)
  const packed = wants('packMaps') ? maps.filter(m => (PACKED_ROLES as readonly string[]).includes(m.role)) : []
  const taken = wants('unpackMaps') ? maps.filter(m => m.role === 'orm') : packed
  const made = wants('unpackMaps') ? taken.flatMap(unpack) : await pack(packed)
  const beside = await Promise.all(
    made.map(
      async (m): Promise<DerivedFile> => ({
        from: null,
        path: m.path,
        role: m.role,
        handednessHint: null,
        bytes: await encodePng(m.image),
      }),
    ),
  )
  // What was put together or taken apart stands aside: it is in the others now.
  for (const m of made.length > 0 ? taken : []) {
    m.role = 'alternate'
    m.isChanged = true
  }
  const changed = await Promise.all(
    maps
      .filter(m => m.isChanged)
      .map(async m => ({
        from: m.path,
        path: m.path.replace(/\.[^./]+$/, '.png'),
        role: m.role,
        handednessHint: m.handednessHint,
        bytes: await encodePng(m.image),
      })),
  )
  return [...changed, ...beside]
}

/** The channels of a packed map as files of their own. */
function unpack({ path, image }: OpenMap): { path: string; role: string; image: Image }[] {
  const stem = path.replace(/[ _-]?(orm|arm)?\.[^./]+$/i, '')
  return unpackMaps(image).map(({ role, image: own }) => ({ path: `${stem}_${role}.png`, role, image: own }))
}

/** Those that can share a picture, as one; they have to be of one size. */
async function pack(maps: readonly OpenMap[]): Promise<{ path: string; role: string; image: Image }[]> {
  const guide = maps[0]
  if (!guide) return []
  for (const m of maps) await resizeTo(m, guide.image.width, guide.image.height)
  const stem = (maps.find(m => m.role === 'roughness') ?? guide).path.replace(/[ _-]?[a-z]*\.[^./]+$/i, '')
  return [{ path: `${stem}_ORM.png`, role: 'orm', image: packMaps(Object.fromEntries(maps.map(m => [m.role, m.image]))) }]
}

const put = (map: OpenMap, image: Image): void => {
  map.image = image
  map.isChanged = true
}

async function fixOneOrAll(maps: readonly OpenMap[], { code, subject, parameters }: Fix): Promise<void> {
  const concerned = subject === undefined ? maps : maps.filter(m => m.path === subject)
  switch (code) {
    case 'flipGreen':
      for (const m of concerned) {
        put(m, flipGreen(m.image))
        m.handednessHint = 'openGl'
      }
      return
    case 'renormalize':
      for (const m of concerned) put(m, renormalize(m.image))
      return
    case 'invertValues':
      for (const m of concerned) put(m, invertValues(m.image))
      return
    case 'removeBakedLight':
      for (const m of concerned) put(m, removeBakedLight(m.image))
      return
    case 'encodeForDisplay':
      for (const m of concerned) put(m, encodeForDisplay(m.image))
      return
    case 'convertToSrgb':
      for (const m of concerned) put(m, await decodeAsSrgb(m.diskPath))
      return
    case 'matchSizes':
      for (const m of maps) await resizeTo(m, Number(parameters.widthPx), Number(parameters.heightPx))
      return
    case 'reduceMaps':
      for (const m of maps) {
        const scale = Number(parameters.budgetPx) / Math.max(m.image.width, m.image.height)
        if (scale < 1) {
          await resizeTo(m, Math.round(m.image.width * scale), Math.round(m.image.height * scale))
          if (m.role === 'normal' && m.image.channels >= 3) put(m, renormalize(m.image))
        }
      }
      return
    case 'makeTileable': {
      // Cut by what is looked at first; a map of another size could not be cut alike.
      const guide = maps.find(m => m.role === 'baseColor') ?? maps[0]
      const alike = [guide, ...maps.filter(m => m !== guide)]
      for (const m of alike) await resizeTo(m, guide.image.width, guide.image.height)
      const cut = makeTileable(
        alike.map(m => m.image),
        parameters.axis === 'y' ? 'y' : 'x',
      )
      alike.forEach((m, k) => {
        put(m, m.role === 'normal' && m.image.channels >= 3 ? renormalize(cut[k]) : cut[k])
      })
      return
    }
    default:
      throw new RangeError(`${code} is no fix of a material`)
  }
}

/** A stand-alone map is fixed as it is kept; what comes out is PNG. */
async function fixFlat(source: ItemSource, fixes: readonly Fix[]): Promise<DerivedFile[]> {
  const { path, diskPath } = mainFile(source)
  let image = await decodeFullDepth(diskPath, MAX_SIDE)
  for (const { code, parameters } of fixes)
    switch (code) {
      case 'makeTileable':
        image = makeTileable([image], parameters.axis === 'y' ? 'y' : 'x')[0]
        break
      case 'bleedColors':
        image = bleedColors(image)
        break
      case 'fillRange':
        image = fillRange(image, Number(parameters.low), Number(parameters.high))
        break
      case 'toGrey':
        image = toGrey(image)
        break
      case 'dropAlpha':
        image = dropAlpha(image)
        break
      default:
        throw new RangeError(`${code} is no fix of a map`)
    }
  return [
    { from: path, path: path.replace(/\.[^./]+$/, '.png'), role: 'map', handednessHint: null, bytes: await encodePng(image) },
  ]
}

const isDeep = (image: Image): boolean => image.data instanceof Uint16Array

/** PNG at the depth the pixels have; nothing is lost. */
const encodePng = (image: Image): Promise<Uint8Array> => encodeMap(image, 'png', null)

async function resizeTo(map: OpenMap, width: number, height: number): Promise<void> {
  const { image } = map
  if (image.width === width && image.height === height) return
  const { data, info } = await openPixels(image)
    .resize(width, height, { fit: 'fill', kernel: 'cubic' })
    .raw({ depth: isDeep(image) ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const values = isDeep(image)
    ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength))
    : new Uint8Array(data)
  put(map, { width, height, channels: info.channels, data: values })
}

/** Pixels through the file's own colour profile to sRGB. */
async function decodeAsSrgb(diskPath: string): Promise<Image> {
  const png = await sharp(diskPath, { limitInputPixels: false }).toColourspace('srgb').png({ compressionLevel: 1 }).toBuffer()
  const { data, info } = await sharp(png, { limitInputPixels: false })
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true })
  return { width: info.width, height: info.height, channels: info.channels, data: new Uint8Array(data) }
}
