import type { z } from 'zod'
import { turnAbout } from '#core/math/quaternion'
import {
  type Assignment,
  type Group,
  type ItemRef,
  type Piece,
  type Planting,
  type Scene,
  type Shot,
  type Sky,
  type Stage,
  sceneSchema,
  shotSchema,
  skySchema,
} from '#core/mock-up/scene/scene'

/** What is not said is as it is when one begins. */
type Draft = z.input<typeof sceneSchema>

/** The mock-ups of the demo world, by names of items. */
export interface DemoMockUp {
  title: string
  /** Code of its project. */
  project: string
  scene: (ref: (name: string) => ItemRef) => Scene
}

type Vec = [number, number, number]
type Assigned = Pick<Assignment, 'material'> & Partial<Assignment>

const worn = (given: Assigned): Assignment => ({ turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {}, ...given })
const group = (name: string): Group => ({ name, isHidden: false, isLocked: false })
const sky = (name: string, item: ItemRef, given: Partial<Sky> = {}): Sky =>
  skySchema.parse({ item, name, background: 'shown', ...given })
const shot = (name: string, place: number, position: Vec, target: Vec, given: Partial<Shot> = {}): Shot =>
  shotSchema.parse({
    name,
    place,
    position,
    target,
    focalMm: 24,
    aspect: 1.6,
    isUpright: true,
    ev: 0,
    sky: null,
    focus: null,
    ...given,
  })

/** Pieces one after the other, with ids of their own. */
class Pieces {
  readonly all: Record<string, Piece> = {}
  constructor(private readonly ref: (name: string) => ItemRef) {}

  stand(
    name: string,
    position: Vec,
    turnDeg = 0,
    given: Partial<Omit<Piece, 'materials'>> & { materials?: Record<string, Assigned> } = {},
  ): string {
    const { materials = {}, ...rest } = given
    const id = `p${Object.keys(this.all).length + 1}`
    this.all[id] = {
      item: this.ref(name),
      name,
      position,
      turn: turnAbout([0, 1, 0], turnDeg),
      scale: 1,
      group: null,
      isHidden: false,
      isLocked: false,
      ...rest,
      materials: Object.fromEntries(Object.entries(materials).map(([part, given]) => [part, worn(given)])),
    }
    return id
  }
}

const onStage = (stage: Stage, materials: Record<string, Assigned>): Stage => ({
  ...stage,
  materials: Object.fromEntries(Object.entries(materials).map(([part, given]) => [part, worn(given)])),
})

function ferryTerrace(ref: (name: string) => ItemRef): Draft {
  const pieces = new Pieces(ref)
  for (const x of [-3, -0.4]) pieces.stand('Waiting bench three', [x, 0, -0.9], x < -1 ? 4 : -3, { group: 'seats' })
  pieces.stand('Side table terrazzo', [-1.7, 0, -0.75], 0, { group: 'seats' })
  for (const x of [-3.12, 0, 3.12]) pieces.stand('Quay railing wire', [x, 0, -2.35], 0)
  pieces.stand('Standing figure', [2.15, 0, -1.35], 158)
  pieces.stand('Betula pendula', [-5.9, -0.06, -3.4], 40, { group: 'trees', scale: 0.86 })
  pieces.stand('Betula pendula', [7.4, -0.06, -6.2], 190, { group: 'trees' })
  pieces.stand('Acer palmatum', [4.6, -0.06, 0.9], 75, { group: 'trees', scale: 0.8 })
  const bed = (name: string, outline: Planting['outline'], species: Planting['species'], given: Partial<Planting>): Planting => ({
    name,
    outline,
    heightM: -0.06,
    species,
    perM2: 1.4,
    leastM: 0.5,
    edgeM: 0.3,
    clearM: 0.1,
    seed: 7,
    group: 'planting',
    isHidden: false,
    without: [],
    ...given,
  })
  const grass = { item: ref('Miscanthus sinensis'), name: 'Miscanthus sinensis', share: 3, smallest: 0.5, largest: 1.05 }
  const dogwood = { item: ref('Cornus alba'), name: 'Cornus alba', share: 1, smallest: 0.5, largest: 1.02 }
  const box = { item: ref('Buxus sempervirens'), name: 'Buxus sempervirens', share: 1, smallest: 0.55, largest: 1.1 }
  return {
    format: 1,
    stage: onStage(
      { kind: 'terrace', widthM: 9.6, depthM: 5, materials: {} },
      { paving: { material: ref('Terrazzo harbour grey') }, ground: { material: ref('Gravel lakeside') } },
    ),
    pieces: pieces.all,
    plantings: {
      shore: bed(
        'Shore',
        [
          [-9, -3],
          [9, -3],
          [11, -7.5],
          [-11, -7.5],
        ],
        [grass, dogwood],
        { perM2: 0.8, leastM: 0.7, edgeM: 0.8 },
      ),
      edge: bed(
        'Along the paving',
        [
          [4.9, -2.4],
          [6.3, -2.4],
          [6.3, 2.6],
          [4.9, 2.6],
        ],
        [box, { ...grass, share: 1 }],
        { perM2: 1.8, leastM: 0.55 },
      ),
    },
    groups: { seats: group('Seats'), trees: group('Trees'), planting: group('Planting') },
    skies: {
      morning: sky('Low sun morning', ref('Low sun morning'), { turnDeg: -64 }),
      noon: sky('Clear noon lake', ref('Clear noon lake'), { turnDeg: 120 }),
      cloud: sky('Broken cloud afternoon', ref('Broken cloud afternoon'), { turnDeg: 40 }),
    },
    shots: {
      bench: shot('Benches to the lake', 1, [1.9, 1.55, 4.6], [-1.1, 0.85, -1.4], { focalMm: 26, sky: 'morning' }),
      along: shot('Along the railing', 2, [-4.4, 1.5, 1.7], [1.6, 0.75, -2.2], { focalMm: 24, sky: 'cloud' }),
      close: shot('Seat slats', 3, [0.9, 1.05, 0.75], [-0.35, 0.5, -0.85], {
        focalMm: 38,
        aspect: 1.25,
        isUpright: false,
        sky: 'noon',
      }),
    },
  }
}

function readingRoom(ref: (name: string) => ItemRef): Draft {
  const pieces = new Pieces(ref)
  const oak = ref('Oak plank natural')
  pieces.stand('Reading table long', [-0.5, 0, -0.1], 0, {
    group: 'tables',
    materials: { top: { material: ref('Oak plank natural'), mapping: 'box' } },
  })
  for (const [x, z, turn] of [
    [-1.15, 0.62, 176],
    [-0.25, 0.66, 187],
    [-1.1, -0.86, 4],
    [-0.1, -0.84, -8],
  ])
    pieces.stand('Slat back chair', [x, 0, z], turn, { group: 'tables' })
  pieces.stand('Desk lamp brass', [-1.35, 0.77, -0.15], 35, { group: 'tables' })
  for (const x of [-2.43, -1.215, 0, 1.215]) pieces.stand('Bookcase birch shelving', [x - 0.2, 0, -2.42], 0, { group: 'shelves' })
  const sofa = pieces.stand('Lounge sofa two', [2.15, 0, -0.55], -78, {
    group: 'corner',
    materials: { base: { material: ref('Wool twill deep teal') }, 'seat cushions': { material: ref('Wool twill deep teal') } },
  })
  pieces.stand('Side table terrazzo', [1.55, 0, 0.95], 0, { group: 'corner' })
  pieces.stand('Monstera deliciosa', [2.35, 0, -2.05], 20, { group: 'corner' })
  pieces.stand('Pendant lamp enamel', [-1.15, 2.05, -0.1], 0, { group: 'tables' })
  pieces.stand('Pendant lamp enamel', [0.15, 2.05, -0.1], 0, { group: 'tables' })
  pieces.stand('Book trolley', [-2.6, 0, 0.7], 82, { group: 'shelves' })
  return {
    format: 1,
    stage: onStage(
      {
        kind: 'room',
        widthM: 6.4,
        depthM: 5.4,
        heightM: 2.9,
        materials: {},
        openings: [
          { wall: 'west', leftM: 0.5, sillM: 0.5, widthM: 1.9, heightM: 2.1 },
          { wall: 'west', leftM: 2.9, sillM: 0.5, widthM: 1.9, heightM: 2.1 },
          { wall: 'south', leftM: 1, sillM: 0, widthM: 4.4, heightM: 2.6 },
        ],
      },
      {
        floor: { material: oak },
        'wall north': { material: ref('Clay plaster ochre') },
        'wall east': { material: ref('Lime plaster chalk') },
        'wall west': { material: ref('Lime plaster chalk') },
        'wall south': { material: ref('Lime plaster chalk') },
        reveals: { material: ref('Birch plywood face') },
        ground: { material: ref('Gravel lakeside') },
      },
    ),
    pieces: pieces.all,
    plantings: {},
    groups: { tables: group('Tables'), shelves: group('Shelves'), corner: group('Corner') },
    choices: {
      cloth: {
        name: 'Sofa cloth',
        spots: ['base', 'seat cushions'].map(part => ({ piece: sofa, part })),
        variants: [worn({ material: ref('Wool twill deep teal') }), worn({ material: ref('Linen weave flax') })],
        shown: 0,
      },
    },
    skies: {
      noon: sky('Clear noon lake', ref('Clear noon lake'), { turnDeg: 75 }),
      soft: sky('Overcast soft sky', ref('Overcast soft sky')),
    },
    shots: {
      room: shot('From the door', 1, [2.5, 1.45, 2.45], [-1.2, 1.05, -2], { focalMm: 21, ev: 2.2, sky: 'noon' }),
      corner: shot('Sofa corner', 2, [-0.9, 1.25, 2.4], [2, 0.8, -1.2], { focalMm: 26, ev: 2.2, sky: 'soft' }),
    },
  }
}

function kettles(ref: (name: string) => ItemRef): Draft {
  const pieces = new Pieces(ref)
  pieces.stand('Kettle round red', [-0.2, 0, 0], 28)
  pieces.stand('Kettle tall blue', [0.22, 0, -0.14], -24)
  pieces.stand('Kettle round red', [0.12, 0, 0.24], 200, {
    materials: {
      body: { material: ref('Enamel cream') },
      lid: { material: ref('Enamel cream') },
      spout: { material: ref('Enamel cream') },
    },
  })
  return {
    format: 1,
    stage: onStage({ kind: 'empty', materials: {} }, { ground: { material: ref('Birch plywood face'), turnDeg: 90 } }),
    pieces: pieces.all,
    plantings: {},
    groups: {},
    skies: { soft: sky('Studio three softboxes', ref('Studio three softboxes'), { background: 'plain', ev: -0.2 }) },
    shots: {
      range: shot('The range', 1, [0.3, 0.62, 1.18], [0.02, 0.07, 0.02], {
        focalMm: 50,
        aspect: 1.5,
        isUpright: false,
        sky: 'soft',
      }),
      red: shot('Red, close', 2, [-0.62, 0.42, 0.5], [-0.17, 0.1, 0], { focalMm: 50, aspect: 1, isUpright: false, sky: 'soft' }),
    },
  }
}

export const DEMO_MOCK_UPS: readonly DemoMockUp[] = [
  { title: 'Terrace on the quay', project: 'FERRY', scene: ref => sceneSchema.parse(ferryTerrace(ref)) },
  { title: 'Reading room, afternoon', project: 'READING', scene: ref => sceneSchema.parse(readingRoom(ref)) },
  { title: 'Three kettles', project: 'KETTLES', scene: ref => sceneSchema.parse(kettles(ref)) },
]
