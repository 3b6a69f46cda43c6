import { fromHex, toHex } from '../../color/srgb'
import { type Appearance, readAppearance, writeAppearance } from '../../material/appearance'
import type { SeenColor } from './color-column'
import { type Look, lookOfMaterial } from './look'

const MARK = 'look:'

/** What a picture looks like, short enough for an address: colours with their shares in percent, then the appearance. */
export const writeLookText = (palette: readonly SeenColor[], appearance: Appearance): string =>
  `${MARK}${palette.map(({ color, share }) => `${toHex(color).slice(1)}.${Math.round(share * 100)}`).join(',')};${writeAppearance(appearance).replaceAll(' ', '_')}`

export const isLookText = (text: string): boolean => text.startsWith(MARK)

/** Null where it is none. Nothing is said of scale: a picture has no size. */
export function readLookText(text: string): Look | null {
  if (!isLookText(text)) return null
  const [colors, figures] = text.slice(MARK.length).split(';')
  const appearance = readAppearance((figures ?? '').replaceAll('_', ' '))
  const palette = colors.split(',').flatMap(entry => {
    const [hex, percent] = entry.split('.')
    const color = fromHex(`#${hex}`)
    const share = Number(percent) / 100
    return color && share > 0 && share <= 1 ? [{ color, share }] : []
  })
  if (!appearance || palette.length === 0) return null
  const look = lookOfMaterial(palette, appearance, undefined)
  // What a photograph's relief is, nobody has measured.
  if (look) look.groups.relief = undefined
  return look
}
