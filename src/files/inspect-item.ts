import { auditPicture } from '#core/compare/audit-picture'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { createFinding, type Finding } from '#core/findings/finding'
import { analyseModel } from '#core/geometry/check-model'
import { analyseMaterial } from '#core/material/analyse-material'
import { findCategory } from '#core/standard/categories'
import { decodeByteImage } from './decode-image'
import { type ItemSource, loadItem } from './load-item'
import type { FailedFile } from './source-file'

export type FactValue = number | string | boolean
export type Facts = Record<string, FactValue>

export interface Inspection {
  facts: Facts
  findings: Finding[]
  /** Files of the item that could not be read and were left out. */
  failures: FailedFile[]
}

/** Checks want true texels; past this the statistics no longer change and the memory does. */
const CHECK_TEXTURE_SIZE = 4096

/** Measures an item and runs every check of its kind. Throws a FileError when its main file cannot be read. */
export async function inspectItem(source: ItemSource, category: string | null): Promise<Inspection> {
  const [inspection, pictures] = [await inspectMain(source, category), await auditPictures(source)]
  return { ...inspection, findings: [...inspection.findings, ...pictures] }
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

async function inspectMain(source: ItemSource, category: string | null): Promise<Inspection> {
  const { loaded, failures } = await loadItem(source, 'checks', CHECK_TEXTURE_SIZE)
  switch (loaded.kind) {
    case 'material': {
      const constant = source.constants.baseColor !== undefined || source.constants.transmissionWeight !== undefined
      const subject = { maps: loaded.maps, widthMm: source.widthMm, category }
      const { facts, findings } = analyseMaterial(subject)
      // A material made of constants has no repeat to measure and needs no colour map.
      const moot =
        constant && loaded.maps.length === 0 ? ['realWorldSizeMissing', 'baseColorMissing'] : constant ? ['baseColorMissing'] : []
      return { facts: { ...facts }, findings: findings.filter(f => !moot.includes(f.code)), failures }
    }
    case 'model': {
      const definition = category ? findCategory(category) : undefined
      const { facts, findings } = analyseModel(loaded.model, {
        expectedSizeM: definition?.expectedSizeM ?? null,
        triangleBudget: definition?.triangleBudget ?? null,
      })
      return { facts: { ...facts }, findings, failures }
    }
    case 'environment': {
      const { facts, findings } = analyseEnvironment(loaded.map)
      return { facts: { ...facts }, findings, failures }
    }
    default:
      return loaded satisfies never
  }
}
