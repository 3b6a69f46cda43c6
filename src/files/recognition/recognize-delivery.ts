import { readFile } from 'node:fs/promises'
import { extensionOf } from '#core/codecs/sniff'
import { looksLikePanorama } from '#core/environment/looks-like-panorama'
import { folderOf, stemWords, tokenizeName } from '#core/file-names'
import { toFailure } from '#core/findings/failure'
import { groupBy } from '#core/group-by'
import type { ByteImage } from '#core/image/image'
import { readMapUse } from '#core/map/map-use'
import { guessRoleByContent } from '#core/material/content-role'
import {
  isNoName,
  type MapCandidate,
  parseMapName,
  type RoleWords,
  recognizeTextureSets,
  type TextureSet,
  withoutSizeFolder,
} from '#core/material/texture-set'
import { readPhotometry } from '#core/photometry/analyse-photometry'
import { proposeTitle } from '#core/standard/categories'
import { listMaterials, type ParsedMaterialX, parseMaterialX } from '#core/targets/materialx/read-materialx'
import { createResolvers } from '../models/model-references'
import { decodeByteImage, readImageHeader } from '../reading/decode-image'
import { listLayerMaps } from '../reading/pictures/layers'
import { type FailedFile, identifyFile, type SourceFile, type TypedFile } from '../reading/source-file'
import type { IndexVerdict } from './delivery-index'
import { applyDeliveryIndex } from './read-index'
import { type LonePicture, recognizeMaps } from './recognize-maps'
import { recognizeModels } from './recognize-models'
import { recognizePaints } from './recognize-paints'
import { createItem, type FileRole, type LeftOverReason, type RecognizedFile, type RecognizedItem } from './recognized-item'

interface Definition {
  file: TypedFile
  parsed: ParsedMaterialX
  /** Of one of several materials in the file. */
  name: string | null
}

export interface Recognition {
  items: RecognizedItem[]
  /** Files that belong to no item, each with its reason. */
  leftOver: { path: string; reason: LeftOverReason }[]
  failures: FailedFile[]
}

const INDEX_REASONS = { used: 'index', older: 'indexOlder', backup: 'indexBackup', foreign: null } as const satisfies Record<
  IndexVerdict,
  LeftOverReason | null
>

/** Files whose first and last bytes are looked at side by side; the disk is waited for, not the processor. */
const READ_AT_ONCE = 16
const PANORAMA_WORDS = ['hdri', 'pano', 'panorama', '360', 'equirect', 'equirectangular', 'latlong']
const LEAST_PANORAMA_PX = 512
const NOTHING: ByteImage = { width: 0, height: 0, channels: 3, data: new Uint8Array(0) }
const PICTURE_WORDS = ['preview', 'thumb', 'thumbnail', 'render', 'swatch']

/**
 * Sorts the files of a delivery into items. Every file ends in an item, left over with a reason, or failed with one.
 * @param words what the supplier's own words for maps mean
 */
export async function recognizeDelivery(files: readonly SourceFile[], words: RoleWords = {}): Promise<Recognition> {
  const failures: FailedFile[] = []
  const typed: TypedFile[] = []
  for (let at = 0; at < files.length; at += READ_AT_ONCE)
    for (const result of await Promise.all(files.slice(at, at + READ_AT_ONCE).map(identifyFile)))
      if ('failure' in result) failures.push(result.failure)
      else typed.push(result.file)
  const items: RecognizedItem[] = []
  const leftOver: Recognition['leftOver'] = []
  const pictures: TypedFile[] = []
  const mapFiles: TypedFile[] = []
  const environments: TypedFile[] = []
  const definitions: Definition[] = []
  const documents: TypedFile[] = []
  const lightCurves: TypedFile[] = []
  const resolve = createResolvers(typed)
  const models = await recognizeModels(typed, failures)
  items.push(...models.items)
  for (const file of typed) {
    if (models.taken.has(file.path)) continue
    switch (file.type) {
      case 'glb':
      case 'gltf':
      case 'obj':
      case 'fbx':
      case 'dae':
      case 'ply':
      case 'stl':
      case 'usda':
      case 'usdc':
      case 'usdz':
        // Taken as models above, or failed.
        break
      case 'mtl':
        leftOver.push({ path: file.path, reason: 'noItem' })
        break
      case 'hdr':
        environments.push(file)
        break
      case 'exr':
        if (parseMapName(file.path, words).role || readMapUse(stemWords(file.path))) mapFiles.push(file)
        else if (!(await takeLayered(file))) environments.push(file)
        break
      case 'psd':
        if (!(await takeLayered(file))) takePicture(file)
        break
      case 'png':
      case 'jpeg':
      case 'webp':
      case 'tiff':
      case 'gif':
      case 'avif':
      case 'tga':
      case 'bmp':
      case 'dds':
      case 'ktx2':
      case 'pnm':
      case 'jxl':
        takePicture(file)
        break
      case 'text':
        if (extensionOf(file.path) === 'mtlx') await takeDefinition(file)
        else documents.push(file)
        break
      case 'ies':
      case 'ldt':
        lightCurves.push(file)
        break
      case 'pdf':
        documents.push(file)
        break
      case 'zip':
        failures.push({
          path: file.path,
          code: 'unsupported',
          message: 'This archive lies too deep in others, or does not open; send it by itself.',
        })
        break
      case 'unknown':
      case 'empty':
        leftOver.push({ path: file.path, reason: 'unknownType' })
        break
      default:
        file.type satisfies never
    }
  }
  const surroundings = await findPanoramas(mapFiles)
  items.push(...groupEnvironments([...environments, ...surroundings]))
  items.push(...(await groupMaterials(mapFiles.filter(f => !surroundings.includes(f)))))
  for (const definition of definitions) attachDefinition(definition)
  if (definitions.length > 0) dropEmptied()
  for (const picture of pictures) attachPicture(picture)
  for (const curve of lightCurves) await attachLightCurve(curve)
  locateItems(items, files)
  const paints = await recognizePaints(documents)
  items.push(...paints.items)
  const verdicts = await applyDeliveryIndex(
    documents.filter(d => !paints.taken.has(d.path)),
    items,
  )
  for (const file of documents) {
    if (paints.taken.has(file.path)) continue
    const verdict = verdicts.get(file.path)
    const reason = verdict ? INDEX_REASONS[verdict] : null
    if (reason) leftOver.push({ path: file.path, reason })
    else attachDocument(file)
  }
  return { items, leftOver, failures }

  function takePicture(file: TypedFile): void {
    // A word such as "render" may also be what a surface is called; a map says its role.
    if (!parseMapName(file.path, words).role && tokenizeName(file.path).some(t => PICTURE_WORDS.includes(t))) pictures.push(file)
    else mapFiles.push(file)
  }

  /** A whole set in the layers of one file: its maps are taken out of it before it is measured. */
  async function takeLayered(file: TypedFile): Promise<boolean> {
    if ((await listLayerMaps(file)).length === 0) return false
    const entry: RecognizedFile = { file, role: 'original', byContentOnly: false, handednessHint: null }
    items.push(createItem('material', [entry], stemWords(file.path)))
    return true
  }

  /** A set made by names is none where definitions have taken all of it. */
  function dropEmptied(): void {
    const isDefined = (item: RecognizedItem) => item.files.some(f => f.role === 'definition')
    const taken = new Set(items.filter(isDefined).flatMap(i => i.files.map(f => f.file.path)))
    const kept = items.filter(i => i.kind !== 'material' || isDefined(i) || i.files.some(f => !taken.has(f.file.path)))
    items.splice(0, items.length, ...kept)
  }

  async function takeDefinition(file: TypedFile): Promise<void> {
    try {
      const text = await readFile(file.diskPath, 'utf8')
      const names = listMaterials(text)
      if (names.length < 2) definitions.push({ file, parsed: parseMaterialX(text), name: null })
      else for (const name of names) definitions.push({ file, parsed: parseMaterialX(text, name), name })
    } catch (error) {
      failures.push({ path: file.path, ...toFailure(error) })
    }
  }

  /** Flat pictures that show a whole surrounding: 2 to 1, by their name or by how their edges run. */
  async function findPanoramas(candidates: TypedFile[]): Promise<TypedFile[]> {
    const found: TypedFile[] = []
    for (const file of candidates) {
      if (parseMapName(file.path, words).role) continue
      const header = await readImageHeader(file.diskPath).catch(() => null)
      if (!header || header.widthPx !== 2 * header.heightPx || header.widthPx < LEAST_PANORAMA_PX) continue
      const isNamed = tokenizeName(file.path).some(t => PANORAMA_WORDS.includes(t))
      if (isNamed || looksLikePanorama(await decodeByteImage(file.diskPath, 256, header).catch(() => NOTHING))) found.push(file)
    }
    return found
  }

  async function groupMaterials(candidates: TypedFile[]): Promise<RecognizedItem[]> {
    const byPath = new Map(candidates.map(f => [f.path, f]))
    const read: MapCandidate[] = []
    for (const file of candidates) {
      try {
        const header = await readImageHeader(file.diskPath)
        const contentRole = parseMapName(file.path, words).role
          ? null
          : guessRoleByContent(await decodeByteImage(file.diskPath, 128))
        read.push({ path: file.path, ...header, contentRole })
      } catch (error) {
        failures.push({ path: file.path, ...toFailure(error) })
      }
    }
    const { sets, leftOver: unassigned } = recognizeTextureSets(read, words)
    const lone = await recognizeMaps([
      ...sets.filter(isLone).map(set => toLone(set.maps[0].path, set.maps[0].role !== 'opacity')),
      ...unassigned.filter(path => !isNoName(parseMapName(path, words).stem)).map(path => toLone(path, false)),
    ])
    for (const path of unassigned) if (!lone.taken.has(path)) leftOver.push({ path, reason: 'picture' })
    const made = sets.filter(set => !(isLone(set) && lone.taken.has(set.maps[0].path))).map(toMaterial)
    return [...made, ...lone.items]

    function toLone(path: string, isSurfaceLike: boolean): LonePicture {
      const folder = folderOf(path)
      const isBesideModel = models.items.some(i => i.files.some(f => isWithin(folder, folderOf(f.file.path))))
      return { file: byPath.get(path)!, isSurfaceLike, isBesideModel }
    }

    function toMaterial(set: TextureSet): RecognizedItem {
      const take =
        (role: FileRole | null) =>
        (map: (typeof set.maps)[number]): RecognizedFile => ({
          file: byPath.get(map.path)!,
          role: role ?? map.role,
          byContentOnly: map.reason === 'content',
          handednessHint: map.handednessHint,
        })
      const words = set.stem.split(' ').filter(Boolean)
      const shown = set.pictures.map(
        (path): RecognizedFile => ({ file: byPath.get(path)!, role: 'picture', byContentOnly: false, handednessHint: null }),
      )
      const files = [...set.maps.map(take(null)), ...set.alternates.map(take('alternate')), ...shown]
      const item = createItem('material', files, words, set.folder)
      return set.variantOf === null ? item : { ...item, given: { variantOf: proposeTitle(set.variantOf.split(' ')) } }
    }
  }

  /**
   * A definition joins the set whose files it names, or the one beside it of the same stem; else, and where it holds several, it is a
   * material by itself.
   */
  function attachDefinition({ file, parsed, name }: Definition): void {
    const folder = folderOf(file.path)
    const stem = stemWords(file.path).join(' ')
    const named = parsed.files.map(resolve(file.path)).filter(f => f !== null)
    const sets = items.filter(i => i.kind === 'material' && !i.files.some(f => f.role === 'definition'))
    const item =
      name === null
        ? (sets.find(i => i.files.some(f => named.some(n => n.path === f.file.path))) ??
          sets.find(i => i.files.some(f => folderOf(f.file.path) === folder && parseMapName(f.file.path, words).stem === stem)))
        : null
    const target = item ?? createItem('material', [], name === null ? stemWords(file.path) : tokenizeName(name), folder)
    for (const { role, file: address, handedness } of parsed.maps) {
      const map = resolve(file.path)(address)
      if (map) putMap(target, map, role, handedness)
    }
    // What its graph is worked out from goes along.
    for (const picture of named) {
      const held = target.files.find(f => f.file.path === picture.path)
      if (!held || parsed.baked.some(role => role === held.role)) putMap(target, picture, 'original', null)
    }
    target.files.push({ file, role: 'definition', byContentOnly: false, handednessHint: null })
    target.constants = parsed.parameters
    if (name !== null) target.given = { ...target.given, materialName: name }
    if (parsed.tileSizeM) target.widthMm = parsed.tileSizeM[0] * 1000
    if (!item) items.push(target)
  }

  /** What a definition says of a file is so, whatever its name seemed to say; it may serve several materials. */
  function putMap(target: RecognizedItem, file: SourceFile, role: FileRole, handednessHint: 'openGl' | 'directX' | null): void {
    const at = leftOver.findIndex(l => l.path === file.path)
    if (at >= 0) leftOver.splice(at, 1)
    target.files = target.files
      .filter(f => f.file.path !== file.path)
      .map(f => (f.role === role && role !== 'original' ? { ...f, role: 'alternate' } : f))
    target.files.push({ file: typed.find(t => t.path === file.path)!, role, byContentOnly: false, handednessHint })
  }

  /** A lamp's light curve lies beside its model, under its name or as the only one there; any other is a luminaire by itself. */
  async function attachLightCurve(file: TypedFile): Promise<void> {
    const folder = folderOf(file.path)
    const beside = items.filter(
      i => i.kind === 'model' && i.files.some(f => f.role === 'model' && folderOf(f.file.path) === folder),
    )
    const stem = stemWords(file.path).join(' ')
    const lamp =
      beside.find(i => isSameStem(stemWords(i.files[0].file.path).join(' '), stem)) ?? (beside.length === 1 ? beside[0] : null)
    const entry: RecognizedFile = { file, role: 'photometry', byContentOnly: false, handednessHint: null }
    if (lamp) lamp.files.push(entry)
    else items.push({ ...createItem('light', [entry], stemWords(file.path)), given: await readMaker(file) })
  }

  function attachDocument(file: TypedFile): void {
    const item = itemBeside(items, file.path)
    if (item) item.files.push({ file, role: 'document', byContentOnly: false, handednessHint: null })
    else leftOver.push({ path: file.path, reason: 'document' })
  }

  function attachPicture(file: TypedFile): void {
    const folder = folderOf(file.path)
    const item = items.find(i => i.files.some(f => folderOf(f.file.path) === folder && f.role !== 'picture'))
    if (item) item.files.push({ file, role: 'picture', byContentOnly: false, handednessHint: null })
    else leftOver.push({ path: file.path, reason: 'picture' })
  }
}

/** One picture by itself whose role only its pixels spoke for, or whose name calls it a mask. */
const isLone = ({ maps, alternates, pictures, variantOf }: TextureSet): boolean =>
  maps.length === 1 &&
  alternates.length + pictures.length === 0 &&
  variantOf === null &&
  (maps[0].reason === 'content' || maps[0].role === 'opacity')

const isWithin = (folder: string, parent: string): boolean => folder === parent || folder.startsWith(`${parent}/`)

/** Each item's own folders, without the one that is the whole delivery's and the one that is its own. */
function locateItems(items: readonly RecognizedItem[], files: readonly SourceFile[]): void {
  const tops = new Set(files.map(f => f.path.split('/')[0]))
  const hasTop = tops.size === 1 && files.every(f => f.path.includes('/'))
  for (const item of items) {
    const parts = withoutSizeFolder(folderOf(item.files[0]?.file.path ?? ''))
      .split('/')
      .filter(Boolean)
    if (hasTop) parts.shift()
    const own = tokenizeName(parts.at(-1) ?? '').join(' ')
    if (own !== '' && (own === item.name.toLowerCase() || item.name.toLowerCase().startsWith(`${own} `))) parts.pop()
    item.sourceFolder = parts.join(' / ')
  }
}

const isSameStem = (a: string, b: string): boolean => a === b || a.startsWith(`${b} `) || b.startsWith(`${a} `)

/** Who made a luminaire and under which number, as its file says; a file that does not read is told of when it is measured. */
async function readMaker({ path, diskPath }: TypedFile): Promise<Record<string, string>> {
  try {
    const { maker, catalogue } = readPhotometry(path, await readFile(diskPath, 'latin1'))
    return { ...(maker ? { maker } : {}), ...(catalogue ? { number: catalogue } : {}) }
  } catch {
    return {}
  }
}

/** A text that lies where one item only is belongs to it; any other stays with the delivery. */
function itemBeside(items: readonly RecognizedItem[], path: string): RecognizedItem | null {
  const folder = folderOf(path)
  const within = items.filter(i => i.files.some(f => f.file.path.startsWith(folder === '' ? '' : `${folder}/`)))
  return within.length === 1 && folder !== '' ? within[0] : null
}

/** Several resolutions of one sky are one item: the largest leads, the others are its alternates. */
function groupEnvironments(files: readonly TypedFile[]): RecognizedItem[] {
  const groups = groupBy(files, ({ path }) => `${withoutSizeFolder(folderOf(path))}\n${stemWords(path).join(' ')}`)
  return [...groups.values()].map(group => {
    const sorted = [...group].sort((a, b) => b.size - a.size)
    return createItem(
      'environment',
      sorted.map((file, i) => ({
        file,
        role: i === 0 ? 'environment' : 'alternate',
        byContentOnly: false,
        handednessHint: null,
      })),
      stemWords(sorted[0].path),
    )
  })
}
