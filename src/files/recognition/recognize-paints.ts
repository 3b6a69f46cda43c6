import { readFile } from 'node:fs/promises'
import { toHex } from '#core/color/srgb'
import { findSheen } from '#core/material/sheens'
import { createPaintMatcher } from '#core/render/pictures/paint-patch'
import type { TypedFile } from '../reading/source-file'
import { parsePaintList } from './paint-list'
import type { RecognizedItem } from './recognized-item'

const MAX_LIST_BYTES = 32 * 1024 ** 2
const CATEGORY = 'surfaces.plaster'

/** Paint makers' lists among a delivery's texts: each colour in each sheen is a material, its base such that it renders as specified. */
export async function recognizePaints(
  texts: readonly TypedFile[],
): Promise<{ items: RecognizedItem[]; taken: ReadonlySet<string> }> {
  const items: RecognizedItem[] = []
  const taken = new Set<string>()
  const matchers = new Map<number, ReturnType<typeof createPaintMatcher>>()
  for (const file of texts) {
    if (file.size > MAX_LIST_BYTES || !/\.(csv|tsv|json)$/i.test(file.path)) continue
    const paints = parsePaintList(file.path, await readFile(file.diskPath, 'utf8'))
    if (!paints || paints.length === 0) continue
    taken.add(file.path)
    for (const { series, number, name, sheen, color } of paints) {
      const { roughness } = findSheen(sheen)!
      const match = matchers.get(roughness) ?? createPaintMatcher(roughness)
      matchers.set(roughness, match)
      const specifiedColor = toHex(color)
      items.push({
        kind: 'material',
        name: `${[series, number].filter(Boolean).join(' ')}${series || number ? ', ' : ''}${name}, ${sheen}`,
        category: CATEGORY,
        categoryConfidence: 0.95,
        files: [{ file, role: 'definition', byContentOnly: false, handednessHint: null }],
        widthMm: null,
        constants: { baseColor: match(color), specularRoughness: roughness },
        sourceFolder: series,
        tags: ['paint', sheen],
        given: Object.fromEntries(Object.entries({ series, number, sheen, specifiedColor }).filter(([, value]) => value !== '')),
        specifiedColor,
      })
    }
  }
  return { items, taken }
}
