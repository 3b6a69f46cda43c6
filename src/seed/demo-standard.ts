import { eq } from 'drizzle-orm'
import { profileSchema, type SaveProfile } from '#shared/contracts/profiles.contract'
import type { Actor } from '../server/platform/access'
import type { Context } from '../server/platform/context'
import { setLicence } from '../server/standard/licences/licences'
import { saveProfile } from '../server/standard/profiles/profiles'
import { projects } from '../server/tables/project.table'
import { licences, profiles } from '../server/tables/standard.table'

/** What Pale Harbour calls its renderers, and how each wants its files. */
const PROFILES: Omit<SaveProfile, 'id' | 'isHouse'>[] = [
  {
    name: 'Stills',
    profile: profileSchema.parse({
      materials: 'materialX',
      normals: 'openGl',
      roughness: 'roughness',
      dataFiles: 'png16',
      environments: 'exr',
      skyExposure: 'whiteCard',
      skyHeading: 'ahead',
    }),
  },
  {
    name: 'Walk-through',
    profile: profileSchema.parse({
      materials: 'gltf',
      colorFiles: 'jpeg',
      environments: 'hdr',
      maxSizePx: 1024,
      sizes: [{ category: 'surfaces', maxSizePx: 2048 }],
    }),
  },
  {
    name: 'Site model',
    profile: profileSchema.parse({
      materials: 'usd',
      models: 'usdz',
      unit: 'cm',
      upAxis: 'z',
      packing: 'packed',
      normals: 'openGl',
      roughness: 'roughness',
      maxSizePx: 2048,
      textureName: '{code:lower}_{map}',
    }),
  },
]

/** Which licence covers whose project. */
const LICENCES = [{ wording: 'Confidential', project: 'KETTLES' }]

/** Profiles and licences of the demo world, as long as nobody has said anything of them. */
export async function seedStandard(context: Context, lead: Actor): Promise<void> {
  const { db } = context
  if ((await db.$count(profiles)) === 1)
    for (const given of PROFILES) await saveProfile(context, lead, { id: null, isHouse: false, ...given })
  for (const { wording, project } of LICENCES) {
    const [known] = await db.select().from(licences).where(eq(licences.wording, wording))
    const [row] = await db.select().from(projects).where(eq(projects.code, project))
    if (!known && row) await setLicence(context, lead, { wording, reach: 'projects', projectIds: [row.id], until: null })
  }
}
