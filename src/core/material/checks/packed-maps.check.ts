import { createFinding } from '../../findings/finding'
import type { MaterialCheck } from '../material-subject'
import { PACKED_ROLES } from '../pack-maps'

/** Whether occlusion, roughness and metalness come as the house keeps them: each apart, or in one picture where a category says so. */
export const checkPacking: MaterialCheck = ({ maps, mapPacking }) => {
  if (mapPacking !== 'packed') return maps.filter(m => m.role === 'orm').map(m => createFinding('packedMaps', {}, m.path))
  const apart = maps.filter(m => (PACKED_ROLES as readonly string[]).includes(m.role))
  const isMixed = apart.length > 1 && !maps.some(m => m.role === 'orm')
  return isMixed ? [createFinding('mapsApart', { roles: apart.map(m => m.role).join(', ') })] : []
}
