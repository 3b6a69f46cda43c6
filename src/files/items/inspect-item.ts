import { resolveType } from '#core/codecs/sniff'
import { deltaE00 } from '#core/color/difference'
import { fromHex, toHex } from '#core/color/srgb'
import { auditPicture } from '#core/compare/audit-picture'
import { markBadPixels } from '#core/environment/analyse-environment'
import { recognizeUnfolding } from '#core/environment/unfold'
import { drawFlatEvidence } from '#core/evidence/draw-flat'
import { drawMapEvidence } from '#core/evidence/draw-maps'
import { drawModelEvidence, type SeenLevel, SHOWN_MENDED } from '#core/evidence/draw-model'
import { drawPanoramaEvidence, viewPanorama } from '#core/evidence/draw-panorama'
import type { EvidencePictures } from '#core/evidence/evidence-pictures'
import { folderOf, tokenizeName } from '#core/file-names'
import { createFinding, type Finding } from '#core/findings/finding'
import { proposeFix } from '#core/fixes/fix'
import { analyseModel } from '#core/geometry/analyse-model'
import type { ImageSize } from '#core/geometry/checks/model-check'
import { fixGlb } from '#core/geometry/fixes/fix-glb'
import { makeLevels } from '#core/geometry/fixes/levels-of-detail'
import { type Mesh, mergeMeshes } from '#core/geometry/mesh'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import type { ByteImage } from '#core/image/image'
import { analyseMap } from '#core/map/analyse-map'
import { analyseMaterial } from '#core/material/analyse-material'
import { analysePhotometry } from '#core/photometry/analyse-photometry'
import { renderPatch } from '#core/render/pictures/paint-patch'
import { type CategoryRules, resolveRules } from '#core/standard/category-rules'
import { parseMaterialX } from '#core/targets/materialx/read-materialx'
import { decodeEnvironment } from '../reading/decode-environment'
import { decodeByteImage, readImageHeader } from '../reading/decode-image'
import { type FailedFile, readBytes, readHead } from '../reading/source-file'
import { encodePicture } from '../writing/encode-picture'
import { type Fingerprint, fingerprintItem } from './fingerprint'
import { type ItemSource, mainFile, mainRole } from './item-source'
import { loadItem, readDefinition, readModelBytes, readModelFile } from './load-item'

export type FactValue = number | string | boolean
export type Facts = Record<string, FactValue>

export interface Inspection {
  facts: Facts
  findings: Finding[]
  /** Files of the item that could not be read and were left out. */
  failures: FailedFile[]
  /** By what it is known again; null when there is nothing to know it by. */
  fingerprint: Fingerprint | null
  /** Findings as pictures (WebP), by their place in `findings`; `after` is what the fix would make of it. */
  evidence: { index: number; before: Uint8Array; after: Uint8Array | null }[]
}

/** Checks want true texels; past this the statistics no longer change and the memory does. */
const CHECK_TEXTURE_SIZE = 4096

/**
 * Measures an item and runs every check of its kind, against the rules given or those that ship.
 * Throws a FileError when its main file cannot be read.
 */
export async function inspectItem(
  source: ItemSource,
  category: string | null,
  { withPictures = false, rules }: { withPictures?: boolean; rules?: CategoryRules } = {},
): Promise<Inspection> {
  const { draw, ...inspection } = await inspectMain(source, category, rules ?? resolveRules(category ?? '', new Map()))
  const findings = [...inspection.findings, ...(await auditPictures(source))]
  return { ...inspection, findings, evidence: withPictures ? await drawEvidence(findings, draw) : [] }
}

/** More pictures than this of one item say nothing new. */
const MOST_PICTURES = 16

async function drawEvidence(findings: readonly Finding[], draw: DrawEvidence): Promise<Inspection['evidence']> {
  const drawn: Inspection['evidence'] = []
  for (const [index, finding] of findings.entries()) {
    const pictures = drawn.length < MOST_PICTURES ? await draw(finding) : null
    if (!pictures) continue
    const encode = async (image: ByteImage) =>
      new Uint8Array(await encodePicture(image, 'webp', { description: 'Display-encoded: sRGB' }))
    drawn.push({ index, before: await encode(pictures.before), after: pictures.after ? await encode(pictures.after) : null })
  }
  return drawn
}

/** At this size a picture's composition shows, and no more is asked of it. */
const AUDIT_SIZE = 256

/** Pictures that came along are not shown as previews; what is wrong with them is told, for whoever has to ask for better ones. */
async function auditPictures({ files }: ItemSource): Promise<Finding[]> {
  const found: Finding[] = []
  for (const { file } of files.filter(f => f.role === 'picture')) {
    // A picture that does not decode is no loss: nothing needs it.
    const image = await decodeByteImage(file.diskPath, AUDIT_SIZE).catch(() => null)
    if (!image) continue
    const { score, faults } = auditPicture(image)
    const name = file.path.split('/').pop() ?? file.path
    if (faults.includes('looksLinear')) found.push(createFinding('pictureLooksLinear', { file: name }))
    if (faults.length > 0) found.push(createFinding('pictureUnfit', { file: name, score, faults: faults.join(', ') }))
  }
  return found
}

type DrawEvidence = (finding: Finding) => EvidencePictures | null | Promise<EvidencePictures | null>
type Measured = Omit<Inspection, 'evidence'> & { draw: DrawEvidence }

async function inspectMain(source: ItemSource, category: string | null, rules: CategoryRules): Promise<Measured> {
  const { loaded, failures } = await loadItem(source, 'checks', CHECK_TEXTURE_SIZE)
  const mainPath = source.files.find(f => f.role === mainRole(source.kind))?.file.path ?? null
  const common = { failures, fingerprint: fingerprintItem(loaded, mainPath) }
  switch (loaded.kind) {
    case 'material': {
      const constant = source.constants.baseColor !== undefined || source.constants.transmissionWeight !== undefined
      const subject = {
        maps: loaded.maps,
        widthMm: source.widthMm,
        tiling: source.tiling,
        category,
        mapBudgetPx: rules.mapBudgetPx,
        mapPacking: rules.mapPacking,
      }
      const { facts, findings } = analyseMaterial(subject)
      // A material made of constants has no repeat to measure and needs no colour map.
      const moot =
        constant && loaded.maps.length === 0 ? ['realWorldSizeMissing', 'baseColorMissing'] : constant ? ['baseColorMissing'] : []
      const paint = checkPaint(source)
      return {
        facts: { ...facts, ...paint.facts },
        findings: [...findings.filter(f => !moot.includes(f.code)), ...paint.findings, ...(await checkDefinition(source))],
        ...common,
        draw: finding => drawMapEvidence(finding, subject),
      }
    }
    case 'model': {
      const levels = await readMeshes(source, 'lod')
      const [standIn] = await readMeshes(source, 'standIn')
      const imageSizes = await measureTextures(loaded.model)
      const { facts, findings } = analyseModel(loaded.model, {
        levels: levels.map(countTriangles),
        imageSizes,
        expectedSizeM: rules.expectedSizeM,
        triangleBudget: rules.triangleBudget,
      })
      const { model } = loaded
      const light = loaded.light && analysePhotometry(loaded.light.web, loaded.light.path)
      return {
        facts: { ...facts, ...light?.facts, ...(standIn === undefined ? {} : { standInTriangles: countTriangles(standIn) }) },
        findings: [...findings, ...(light?.findings ?? [])],
        ...common,
        draw: async finding =>
          drawModelEvidence(finding, model, {
            levels: levels.map(mesh => ({ mesh, heightPx: null })),
            made: proposeFix(finding)?.code === 'makeLevels' ? await previewLevels(source) : null,
            fixed: SHOWN_MENDED.has(finding.code) ? await previewMended(source, finding) : null,
          }),
      }
    }
    case 'environment': {
      const { facts } = loaded.analysis
      const origin = await checkOrigin(source)
      // That it has few levels follows from what it came as.
      const own = loaded.analysis.findings.filter(f => !(f.code === 'fewLevels' && origin.some(o => o.code === 'skyOfPicture')))
      const findings = [...own, ...origin, ...checkTiers(source, facts.widthPx)]
      const { analysis } = loaded
      const view = once(() => viewPanorama(markBadPixels(analysis)))
      const { sunAzimuthDeg: azimuthDeg, sunElevationDeg: elevationDeg } = facts
      const sun = azimuthDeg !== undefined && elevationDeg !== undefined ? { azimuthDeg, elevationDeg } : null
      return {
        facts: { ...facts },
        findings,
        ...common,
        draw: finding => drawPanoramaEvidence(finding, view(), sun),
      }
    }
    case 'map': {
      const { path, image, header } = loaded
      const subject = {
        path,
        image,
        widthPx: header.widthPx,
        heightPx: header.heightPx,
        bitsPerChannel: header.bitsPerChannel,
        words: tokenizeName(path),
        folderWords: tokenizeName(folderOf(path)),
        widthMm: source.widthMm,
      }
      const { facts, findings } = analyseMap(subject)
      return { facts: { ...facts }, findings, ...common, draw: finding => drawFlatEvidence(finding, subject.image) }
    }
    case 'light': {
      const { web, path } = loaded.light
      const { facts, findings } = analysePhotometry(web, path)
      return { facts: { ...facts }, findings, ...common, draw: () => null }
    }
    default:
      return loaded satisfies never
  }
}

/** The item's other models, in the order they stand in. One that does not read is no loss. */
async function readMeshes(source: ItemSource, role: 'lod' | 'standIn'): Promise<Mesh[]> {
  const meshes: Mesh[] = []
  for (const { file } of source.files.filter(f => f.role === role)) {
    const model = await readModelFile(source, file).catch(() => null)
    if (model) meshes.push(mergeMeshes(model.parts.map(p => p.mesh)))
  }
  return meshes
}

const countTriangles = (mesh: Mesh): number => mesh.indices.length / 3

/** The levels that would be made, each with the height up to which it is less than a pixel off. */
async function previewLevels(source: ItemSource): Promise<SeenLevel[]> {
  const levels = await makeLevels(await readModelBytes(source, mainFile(source)))
  return Promise.all(
    levels.map(async ({ bytes, goodUpToPx }) => ({
      mesh: mergeMeshes((await parseGlb(bytes)).parts.map(p => p.mesh)),
      heightPx: goodUpToPx,
    })),
  )
}

/** The model as a finding's own fix would leave it. */
async function previewMended(source: ItemSource, finding: Finding): Promise<Model | null> {
  const fix = proposeFix(finding)
  return fix && parseGlb(await fixGlb(await readModelBytes(source, mainFile(source)), [fix]))
}

/** What is only needed for pictures is made when the first of them asks for it. */
function once<T>(make: () => T): () => T {
  let made: { value: T } | null = null
  return () => {
    made ??= { value: make() }
    return made.value
  }
}

/** Sizes of the textures inside a model; one that does not decode is a matter of other checks. */
const measureTextures = (model: Model): Promise<(ImageSize | null)[]> =>
  Promise.all(model.images.map(image => readImageHeader(image.bytes).catch(() => null)))

const SHAPE_WORDS = { verticalCross: 'cross', horizontalCross: 'cross', mirrorBall: 'mirror ball' } as const

/** What a panorama was made of, where it came as something else. */
async function checkOrigin({ files }: ItemSource): Promise<Finding[]> {
  const original = files.find(f => f.role === 'original')?.file
  if (!original) return []
  const type = resolveType(original.path, await readHead(original.diskPath))
  if (type !== 'hdr' && type !== 'exr') {
    const { bitsPerChannel } = await readImageHeader(original.diskPath)
    return [createFinding('skyOfPicture', { bits: bitsPerChannel })]
  }
  const shape = recognizeUnfolding(decodeEnvironment(await readBytes(original), type))
  return shape ? [createFinding('skyUnfolded', { shape: SHAPE_WORDS[shape] })] : []
}

/** From here on an environment is slow to open where it is only looked at. */
const TIERS_WANTED_FROM_PX = 4096

const checkTiers = (source: ItemSource, widthPx: number): Finding[] =>
  widthPx >= TIERS_WANTED_FROM_PX && !source.files.some(f => f.role === 'alternate')
    ? [createFinding('tiersMissing', { widthPx })]
    : []

/** What a material's definition says that the house does not hold. */
async function checkDefinition(source: ItemSource): Promise<Finding[]> {
  const definition = await readDefinition(source)
  if (!definition) return []
  const { lost } = parseMaterialX(definition.text, source.materialName)
  return lost.length > 0 ? [createFinding('lostInReading', { form: 'mtlx', what: lost.slice(0, MOST_LOST).join(', ') })] : []
}
const MOST_LOST = 6

/** Past this a person beside the card sees another colour. */
const MOST_DELTA_E = 1

/** Of a paint: what it reads when it is rendered as its maker measured it, against what is specified. */
function checkPaint({ specifiedColor, constants }: ItemSource): { facts: Facts; findings: Finding[] } {
  const specified = fromHex(specifiedColor ?? '')
  if (!specified) return { facts: {}, findings: [] }
  const rendered = renderPatch(constants)
  const difference = deltaE00(specified, rendered)
  const facts = { renderedColor: toHex(rendered), colorDeltaE00: difference }
  const evidence = { rendered: toHex(rendered), specified: toHex(specified), deltaE00: difference, limit: MOST_DELTA_E }
  return { facts, findings: difference > MOST_DELTA_E ? [createFinding('paintOffColor', evidence)] : [] }
}
