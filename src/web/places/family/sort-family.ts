import { SRGB_TO_LINEAR } from '#core/color/srgb'
import { findAlike, placeColor } from '#core/compare/alike'
import type { Vec3 } from '#core/math/vec3'
import type { Family } from '#shared/contracts/family.contract'

export const SORTS = ['hue', 'lightness', 'roughness', 'name'] as const
export type Sort = (typeof SORTS)[number]
export type Member = Family['members'][number]

const toLinear = (hex: string): Vec3 => [1, 3, 5].map(k => SRGB_TO_LINEAR[Number.parseInt(hex.slice(k, k + 2), 16)]) as Vec3

/** In the order asked for; what has no such figure comes last, by name. Greys stand after the hues, by lightness. */
export function sortFamily(members: readonly Member[], sort: Sort): Member[] {
  const keyOf = (m: Member): number => {
    switch (sort) {
      case 'name':
        return 0
      case 'roughness':
        return m.roughness ?? Number.POSITIVE_INFINITY
      case 'lightness':
        return m.color ? placeColor(toLinear(m.color)).lightness : Number.POSITIVE_INFINITY
      case 'hue': {
        if (!m.color) return Number.POSITIVE_INFINITY
        const { hueDeg, lightness } = placeColor(toLinear(m.color))
        return hueDeg === null ? 400 + lightness : hueDeg
      }
      default:
        return sort satisfies never
    }
  }
  return members
    .map(m => ({ m, key: keyOf(m) }))
    .sort((a, b) => (a.key === b.key ? a.m.name.localeCompare(b.m.name) : a.key - b.key))
    .map(x => x.m)
}

/** For each member the nearest one within `limit` ΔE00, if there is any. */
export function nearestAlike(members: readonly Member[], limit: number): Map<string, { code: string; deltaE: number }> {
  const alike = findAlike(
    members.map(m => (m.color ? toLinear(m.color) : null)),
    limit,
  )
  return new Map(
    members.flatMap((m, k) =>
      alike[k].length > 0 ? [[m.code, { code: members[alike[k][0].index].code, deltaE: alike[k][0].deltaE }] as const] : [],
    ),
  )
}
