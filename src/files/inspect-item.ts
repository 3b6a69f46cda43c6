import { analyseEnvironment } from '#core/environment/analyse-environment'
import type { Finding } from '#core/findings/finding'
import { analyseModel } from '#core/geometry/check-model'
import { analyseMaterial } from '#core/material/analyse-material'
import { findCategory } from '#core/standard/categories'
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
