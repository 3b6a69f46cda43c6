import { toast } from 'sonner'
import type { Vec3 } from '#core/math/vec3'
import { addVariant } from '#core/mock-up/materials/variants'
import { assignTo, listReached, type PartBook, type Reach } from '#core/mock-up/materials/wearing'
import { type Face, standAt } from '#core/mock-up/placing/against-wall'
import { beginLight, beginSky } from '#core/mock-up/scene/begin'
import { joinChanges } from '#core/mock-up/scene/change'
import { place } from '#core/mock-up/scene/pieces'
import type { ItemRef, Scene, Spot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { MockUpSession } from './state/mock-up-session'
import { newId } from './state/new-id'

/** Where something is brought in: a face, and the part that it is of. */
export interface Landing {
  face: Face | null
  spot: Spot | null
}

interface Props {
  scene: Scene
  session: MockUpSession
  book: PartBook
  reach: Reach
  /** New pieces go into it. */
  activeGroup: string | null
  /** Parts that are chosen, for a material that is not dropped on one. */
  chosenSpot: Spot | null
  items: ReadonlyMap<string, MockUpItem>
  find: (ids: readonly number[]) => Promise<readonly MockUpItem[] | null>
  /** A material becomes one more variant of its parts, in place of what they wear. */
  addsVariant: boolean
  onPlaced: (ids: readonly string[]) => void
  onSky: (sky: string) => void
  onLight: (light: string) => void
  /** Beside what is chosen, or where one looks. */
  freePoint: () => Vec3
}

/** In the open a light hangs so high, and under a ceiling so far below it. */
const HUNG_AT_M = 2.4
const HANGS_M = 0.3

const UP: Vec3 = [0, 1, 0]
const NOWHERE: Landing = { face: null, spot: null }

/** Items of the library into the scene: models onto a place, materials onto parts, surroundings as the light. */
export function useBringIn(props: Props) {
  const { scene, session, activeGroup, find, onPlaced, onSky, freePoint } = props

  /** Of what is here already, the version that is here: two versions of one item beside each other are a decision, not a slip. */
  const asHere = (item: MockUpItem): { ref: ItemRef; newer: MockUpItem | null } => {
    const here = Object.values(scene.pieces).find(p => p.item.code === item.ref.code)?.item
    return here && here.inputKey !== item.ref.inputKey && props.items.has(here.inputKey)
      ? { ref: here, newer: item }
      : { ref: item.ref, newer: null }
  }

  const bringNewer = (item: MockUpItem) => {
    const pieces = Object.entries(scene.pieces).filter(([, p]) => p.item.code === item.ref.code)
    session.act({ pieces: Object.fromEntries(pieces.map(([id, p]) => [id, { ...p, item: item.ref }])) })
  }

  const placeModels = (models: readonly MockUpItem[], face: Face) => {
    let change = {}
    const standing = standAt(
      face,
      models.map(m => m.sizeM),
    )
    const ids = models.map((item, k) => {
      const id = newId()
      const { ref, newer } = asHere(item)
      change = joinChanges(change, place(id, ref, { name: item.name, ...standing[k], group: activeGroup }))
      if (newer)
        toast(`${item.name} is here at version ${ref.version}, and was brought in at that.`, {
          action: { label: `Version ${newer.ref.version} for all`, onClick: () => bringNewer(newer) },
        })
      return id
    })
    session.act(change)
    onPlaced(ids)
    const group = activeGroup === null ? null : scene.groups[activeGroup]
    if (group) toast(`Into the group ${group.name}.`)
  }

  const putOn = (item: MockUpItem, spot: Spot | null) => {
    const on = spot ?? props.chosenSpot
    if (!on) {
      toast('Choose a part first, or drop the material on one.')
      return
    }
    const spots = listReached(scene, on, props.reach, props.book)
    const given = { material: item.ref, turnDeg: 0, offsetM: [0, 0] as [number, number], mapping: 'own' as const, override: {} }
    session.act(
      props.addsVariant ? addVariant(scene, spots, given, { id: newId(), name: on.part }) : assignTo(scene, spots, given),
    )
    toast(spots.length === 1 ? `${item.name} on ${on.part}.` : `${item.name} on ${spots.length} parts.`, {
      action: { label: 'Undo', onClick: () => session.undo() },
    })
  }

  const light = (item: MockUpItem) => {
    const known = Object.entries(scene.skies).find(([, s]) => s.item?.inputKey === item.ref.inputKey)?.[0]
    const id = known ?? newId()
    if (!known) session.act({ skies: { [id]: beginSky(item.name, { item: item.ref }) } })
    onSky(id)
  }

  /** Under a ceiling, or over where it is put down. */
  const hang = (name: string, of: Parameters<typeof beginLight>[2], landing: Landing = NOWHERE) => {
    const id = newId()
    const [x, y, z] = landing.face?.point ?? freePoint()
    const { stage } = scene
    const ceiling = stage.kind === 'room' ? stage.heightM : HUNG_AT_M + HANGS_M
    const isHigh = landing.face !== null && y > ceiling - HANGS_M * 2
    session.act({ lights: { [id]: beginLight(name, [x, isHigh ? y - 0.05 : ceiling - HANGS_M, z], of) } })
    props.onLight(id)
  }

  const bring = async (ids: readonly number[], landing: Landing = NOWHERE): Promise<void> => {
    const data = await find(ids)
    if (!data) return
    const models = data.filter(i => i.kind === 'model')
    if (models.length > 0) placeModels(models, landing.face ?? { point: freePoint(), normal: UP })
    const materials = data.filter(i => i.kind === 'material')
    // Several of them are for a person to put where they belong.
    if (materials.length === 1) putOn(materials[0], landing.spot)
    else if (materials.length > 1) toast('Bring materials in one by one: each goes to a part.')
    const skies = data.filter(i => i.kind === 'environment')
    for (const sky of skies) light(sky)
    const luminaires = data.filter(i => i.kind === 'light')
    for (const item of luminaires) hang(item.name, { kind: 'luminaire', item: item.ref }, landing)
    const rest = data.length - models.length - materials.length - skies.length - luminaires.length
    if (rest > 0 || data.length < ids.length)
      toast(`${rest + ids.length - data.length} of these cannot stand in a scene: maps belong to other items.`)
  }
  return { bring, hang }
}
