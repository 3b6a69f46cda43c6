import { isSrgbProfile } from '../../codecs/icc'
import { createFinding } from '../../findings/finding'
import type { MaterialCheck } from '../material-subject'

/** A colour map in another space than sRGB is read wrong by every target. */
export const checkColorProfile: MaterialCheck = ({ maps }) =>
  maps
    .filter(m => m.role === 'baseColor' || m.role === 'emission')
    .flatMap(m =>
      m.profile && !isSrgbProfile(m.profile) ? [createFinding('colorProfileOther', { profile: m.profile }, m.path)] : [],
    )
