import { createFinding } from '../../findings/finding'
import { HOUSE_HEADING_DEG } from '../../standard/categories'
import type { EnvironmentCheck } from './environment-check'

/** Within a degree nobody sees a difference. */
const LEAST_TURN_DEG = 1

/** Where the light of a directed sky comes from, against the house heading. */
export const checkHeading: EnvironmentCheck = ({ keyAzimuthDeg, shadows }) => {
  if (keyAzimuthDeg === null || shadows === 'none') return []
  const turn = ((((keyAzimuthDeg - HOUSE_HEADING_DEG) % 360) + 540) % 360) - 180
  return Math.abs(turn) > LEAST_TURN_DEG
    ? [createFinding('headingOff', { azimuthDeg: keyAzimuthDeg, houseDeg: HOUSE_HEADING_DEG })]
    : []
}

/** A tenth of a stop is seen by nobody; a rounded half float may be off by less. */
const LEAST_EV = 0.1

/** What a white card lying in it reads, against 1. */
export const checkExposure: EnvironmentCheck = ({ horizontalIrradiance }) => {
  if (!(horizontalIrradiance > 0)) return []
  const gain = Math.PI / horizontalIrradiance
  const ev = Math.log2(gain)
  return Math.abs(ev) > LEAST_EV ? [createFinding('exposureOff', { gain, ev, whiteCard: 1 / gain })] : []
}
