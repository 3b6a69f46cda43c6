import type { MockUpPicture } from '#shared/contracts/mock-ups.contract'

export const captionOf = (p: MockUpPicture): string =>
  [p.shotName, p.skyName ?? 'house light', ...p.variantNames, p.quality].join(', ')

export const sayTime = (seconds: number): string =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`
