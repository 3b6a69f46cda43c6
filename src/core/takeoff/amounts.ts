/** What a schedule says of an amount beside the amount itself. */
export interface AmountFacts {
  /** m² that a litre covers once. */
  coverageM2L: number | null
  coats: number | null
  weightKgM2: number | null
  weightKg: number | null
  /** For a square metre of a material, for one of what is counted. */
  price: number | null
}

export interface Amount {
  unit: 'm2' | 'pieces'
  /** As measured. */
  net: number
  /** With waste. */
  gross: number
  litres: number | null
  weightKg: number | null
  cost: number | null
}

/**
 * Litres of paint are m² times coats over coverage; weight and cost by what is known of the item. Waste is bought, and not built in: it counts
 * for litres and cost, not for weight.
 * @param wasteShare 0.1 for ten in a hundred; of whole pieces it is rounded up
 */
export function amountOf(net: number, unit: Amount['unit'], facts: AmountFacts, wasteShare = 0): Amount {
  const gross = unit === 'pieces' ? Math.ceil(net * (1 + wasteShare) - 1e-9) : net * (1 + wasteShare)
  const { coverageM2L, coats, price } = facts
  const isPaint = unit === 'm2' && coverageM2L !== null && coverageM2L > 0
  const each = unit === 'm2' ? facts.weightKgM2 : facts.weightKg
  return {
    unit,
    net,
    gross,
    litres: isPaint ? (gross * (coats ?? 1)) / coverageM2L : null,
    weightKg: each === null ? null : net * each,
    cost: price === null ? null : gross * price,
  }
}

/** A figure that a person typed: "12,5" and "12.5 m²/l" are twelve and a half. */
export function readFigure(text: unknown): number | null {
  if (typeof text === 'number') return Number.isFinite(text) ? text : null
  const found = /-?\d+(?:[.,]\d+)?/.exec(String(text ?? '').replace(/(\d)[\s\u00a0\u202f](?=\d{3}\b)/g, '$1'))
  return found ? Number(found[0].replace(',', '.')) : null
}
