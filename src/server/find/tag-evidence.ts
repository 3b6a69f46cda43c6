import { fromHex } from '#core/color/srgb'
import type { SeenColor } from '#core/find/looks/color-column'
import type { TagEvidence } from '#core/find/tags/propose-tags'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import type { FactValue } from '#files/items/inspect-item'

type Facts = Readonly<Record<string, FactValue>>

interface Described {
  name: string
  category: string
  kind: string
  constants: Partial<OpenPbrParameters> | null
}

/** What is known of an item, or a row of a delivery, as far as words for it can be read from it. */
export const toTagEvidence = ({ name, category, kind, constants }: Described, facts: Facts): TagEvidence => ({
  name,
  category,
  kind,
  folders: foldersOf(String(facts.sourcePath ?? '')),
  palette: readPalette(facts, constants ?? {}),
  meanRoughness: asFigure(facts.meanRoughness) ?? constants?.specularRoughness,
  metalShare: asFigure(facts.metalShare),
  lrv: asFigure(facts.lrv),
})

const asFigure = (value: FactValue | undefined): number | undefined => (typeof value === 'number' ? value : undefined)

/** Folders in which it came; the first is the maker's name again, and the file's has given the item its own. */
export const foldersOf = (path: string): string[] => path.split('/').slice(1, -1)

/** Colours with their shares, from the fact that says them as text; of a paint the one that it is made of. */
export function readPalette(facts: Facts, constants: Partial<OpenPbrParameters>): SeenColor[] {
  const seen = String(facts.palette ?? '')
    .split(', ')
    .flatMap(entry => {
      const [hex, share] = entry.split(' ')
      const color = fromHex(hex ?? '')
      return color && share ? [{ color, share: Number(share) }] : []
    })
  if (seen.length > 0) return seen
  const one = constants.baseColor ?? fromHex(String(facts.meanColor ?? facts.specifiedColor ?? ''))
  return one ? [{ color: [one[0], one[1], one[2]], share: 1 }] : []
}
