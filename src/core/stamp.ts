/** What is written beside a delivered thing, so that a later look at a scene knows it again. */
export interface Stamp {
  code: string
  version: number
  /** Whether it was taken along to be changed: what is different about it is meant. */
  isCopy?: true
}

/** The stamp among what a scene says of a thing beside its form; null without one. */
export function readStamp(extras: Record<string, unknown> | undefined): Stamp | null {
  const { code, version, isCopy } = (extras?.muscovite ?? {}) as Partial<Record<keyof Stamp, unknown>>
  if (typeof code !== 'string' || typeof version !== 'number') return null
  return isCopy === true ? { code, version, isCopy } : { code, version }
}
