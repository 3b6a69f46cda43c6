import { createFinding } from '../../findings/finding'
import type { MaterialCheck } from '../material-subject'

export const checkRoleSource: MaterialCheck = ({ maps }) =>
  maps.filter(m => m.byContentOnly).map(m => createFinding('roleByContentOnly', { role: m.role }, m.path))
